import { useQuery } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { api, must } from "../api/client";
import { useApp } from "../app/context";
import { useJob, useWrites } from "../job/job";
import { CodeEditor } from "./CodeEditor";
import * as words from "./words";
import Input from "antd/es/input/Input";

/** The controller whose lamp is read in this job; a new one is made on the spot, with its table or without. */
export function Controller() {
  const { job, circuit, state } = useJob();
  const { mayWrite } = useApp();
  const { change } = useWrites(job.id, state);
  const [name, setName] = useState<string>();
  const [table, setTable] = useState(false);
  const tables = useQuery({ queryKey: ["codes"], queryFn: () => must(api.GET("/api/codes")) });
  const known = [
    ...new Set((tables.data ?? []).filter((t) => t.circuit === circuit.id).map((t) => t.controller)),
  ];
  if (job.controller && !known.includes(job.controller)) known.push(job.controller);
  const hasTable = (tables.data ?? []).some(
    (t) => t.circuit === circuit.id && t.controller === job.controller,
  );
  return (
    <div className="controller">
      <div className="value-row">
        <Select
          id="controller"
          aria-label={words.controllerWhoseLampIs}
          allowClear
          disabled={!mayWrite || undefined}
          placeholder={words.whichController}
          options={known.map((v) => ({ value: v }))}
          value={job.controller || undefined}
          onChange={(v: string | undefined) => change.mutate({ controller: v ?? "" })}
        />
        {mayWrite && name === undefined && <Button onClick={() => setName("")}>{words.aNewOne}</Button>}
        {mayWrite && job.controller && !hasTable && !table && tables.data && (
          <Button onClick={() => setTable(true)}>{words.itsCodes}</Button>
        )}
      </div>
      {name !== undefined && (
        <div className="value-row">
          <Input
            aria-label={words.nameOfTheNew}
            placeholder={words.asItIsCalled}
            maxLength={120}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <Button
            type="primary"
            loading={change.isPending}
            disabled={!name.trim()}
            onClick={() =>
              change.mutate(
                { controller: name.trim() },
                {
                  onSuccess: () => {
                    setName(undefined);
                    setTable(true);
                  },
                },
              )
            }
          >
            {words.keep}
          </Button>
          <Button type="text" onClick={() => setName(undefined)}>
            {words.cancel}
          </Button>
        </div>
      )}
      {table && job.controller && (
        <CodeEditor
          circuit={circuit}
          controller={job.controller}
          onDone={() => {
            setTable(false);
            change.mutate({ controller: job.controller });
          }}
        />
      )}
      {job.codes_say && <p className="quiet">{job.codes_say}</p>}
      {change.error && (
        <p className="wrong" role="alert">
          {change.error.message}
        </p>
      )}
    </div>
  );
}

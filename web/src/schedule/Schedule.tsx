import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Modal, Select } from "antd";
import { useState } from "react";
import { api, must, type ScheduleView } from "../api/client";
import { newId } from "../shared/id";
import { Needs } from "../offline/Needs";
import { useLost } from "../offline/sync";
import { kinds, waitWords, type Kind } from "../board/waits";
import * as words from "./words";
import Input from "antd/es/input/Input";

/** Where a job stands, who has it and what it waits for. */
export function Schedule({ job, machine, onClose }: { job: string; machine: string; onClose: () => void }) {
  const client = useQueryClient();
  const lost = useLost();
  const key = ["schedule", job];
  const path = { id: job };
  const q = useQuery({
    queryKey: key,
    queryFn: () => must(api.GET("/api/jobs/{id}/schedule", { params: { path } })),
  });
  const onSuccess = (v: ScheduleView) => {
    client.setQueryData(key, v);
    void client.invalidateQueries({ queryKey: ["board"] });
  };
  const place = useMutation({
    mutationFn: (body: { bench: string; person: string }) =>
      must(api.PUT("/api/jobs/{id}/schedule", { params: { path }, body })),
    onSuccess,
  });
  const wait = useMutation({
    mutationFn: (w: { id: string; kind: Kind; note: string; until?: string }) =>
      must(
        api.PUT("/api/jobs/{id}/waits/{wait}", {
          params: { path: { id: job, wait: w.id } },
          body: { kind: w.kind, note: w.note, until: w.until },
        }),
      ),
    onSuccess: (v) => {
      onSuccess(v);
      setNext(undefined);
    },
  });
  const end = useMutation({
    mutationFn: (id: string) =>
      must(api.DELETE("/api/jobs/{id}/waits/{wait}", { params: { path: { id: job, wait: id } } })),
    onSuccess,
  });
  const [next, setNext] = useState<{ id: string; kind: Kind; note: string; until: string }>();
  const [bench, setBench] = useState<string>();
  const v = q.data;
  const error = q.error ?? place.error ?? wait.error ?? end.error;
  return (
    <Modal open title={machine} onCancel={onClose} footer={null} className="schedule">
      {!v && lost && <p className="away">{words.thisCanBeSeen}</p>}
      {v && (
        <Needs what={words.thisCanBeChanged}>
          <h3>{words.whatDoesItWait}</h3>
          {v.waits.length === 0 && !next && <p className="quiet">{words.forNothingItCan}</p>}
          <ul>
            {v.waits.map((w) => (
              <li key={w.id}>
                {waitWords(w)}{" "}
                <Button
                  size="middle"
                  loading={end.isPending && end.variables === w.id}
                  onClick={() => end.mutate(w.id)}
                >
                  {words.itIsThere}
                </Button>
              </li>
            ))}
          </ul>
          <div className="answers" role="group" aria-label={words.itWaitsFor}>
            {kinds.map((k) => (
              <Button
                key={k.kind}
                type={next?.kind === k.kind ? "primary" : "default"}
                aria-pressed={next?.kind === k.kind}
                onClick={() =>
                  setNext({ id: next?.id ?? newId(), kind: k.kind, note: next?.note ?? "", until: k.usual() })
                }
              >
                {k.label}
              </Button>
            ))}
          </div>
          {next && (
            <div className="wait-row">
              <Input
                aria-label={words.whatExactly}
                placeholder={next.kind === "parts" ? words.whichPartsFromWhom : words.whatExactlyMayStay}
                maxLength={200}
                value={next.note}
                onChange={(e) => setNext({ ...next, note: e.target.value })}
              />
              <input
                type="datetime-local"
                aria-label={words.until}
                value={next.until}
                onChange={(e) => setNext({ ...next, until: e.target.value })}
              />
              <Button
                type="primary"
                loading={wait.isPending}
                disabled={next.kind === "other" && !next.note.trim()}
                onClick={() =>
                  wait.mutate({
                    ...next,
                    note: next.note.trim(),
                    until: next.until ? new Date(next.until).toISOString() : undefined,
                  })
                }
              >
                {words.itWaits}
              </Button>
            </div>
          )}
          <h3>{words.whereIsItAnd}</h3>
          <div className="wait-row">
            <Input
              aria-label={words.bench}
              placeholder={words.bench2YardJetty}
              maxLength={60}
              value={bench ?? v.bench}
              onChange={(e) => setBench(e.target.value)}
              onBlur={() =>
                bench !== undefined && bench !== v.bench && place.mutate({ bench, person: v.person })
              }
              onPressEnter={(e) => e.currentTarget.blur()}
            />
            <Select
              aria-label={words.person}
              placeholder={words.nobodyYet}
              allowClear
              value={v.person || undefined}
              options={v.people.map((p) => ({ value: p.id, label: p.name }))}
              onChange={(person: string | undefined) =>
                place.mutate({ bench: bench ?? v.bench, person: person ?? "" })
              }
            />
          </div>
        </Needs>
      )}
      {error && (
        <p className="wrong" role="alert">
          {error.message}
        </p>
      )}
    </Modal>
  );
}

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { api, must, type Circuit } from "../api/client";
import * as words from "./words";
import Input from "antd/es/input/Input";

interface Row {
  code?: number;
  says: string;
  faults: string[];
}

const spaced = (s: string) => s.replaceAll("_", " ");
const cell = (s: string) => `"${s.replaceAll('"', '""')}"`;

/** A table of blink codes made by picking parts and what is wrong with them from lists. */
export function CodeEditor({
  circuit,
  controller,
  machine = "",
  entries = [],
  onDone,
}: {
  circuit: Circuit;
  controller: string;
  machine?: string;
  entries?: { code: number; says: string; faults: string[] }[];
  onDone: () => void;
}) {
  const client = useQueryClient();
  const [rows, setRows] = useState<Row[]>(
    entries.length > 0 ? entries.map((e) => ({ ...e })) : [{ says: "", faults: [] }],
  );
  const faults = circuit.stations.flatMap((s) =>
    Object.keys(s.faults ?? {}).map((m) => ({ value: `${s.id}.${m}`, label: `${s.label}: ${spaced(m)}` })),
  );
  const used = rows.filter((r) => r.code && (r.says.trim() || r.faults.length > 0));
  const save = useMutation({
    mutationFn: () =>
      must(
        api.PUT("/api/codes", {
          params: { query: { controller, machine, circuit: circuit.id } },
          body: [
            "code,meaning,faults",
            ...used.map((r) =>
              [
                r.code,
                cell(
                  r.says.trim() ||
                    r.faults.map((f) => faults.find((x) => x.value === f)?.label ?? f).join(", "),
                ),
                cell(r.faults.join(" ")),
              ].join(","),
            ),
          ].join("\n"),
          bodySerializer: (b) => b,
          headers: { "Content-Type": "text/csv" },
        }),
      ),
    onSuccess: (t) => {
      client.setQueryData(["codes"], t);
      onDone();
    },
  });
  const set = (i: number, r: Partial<Row>) => setRows(rows.map((x, k) => (k === i ? { ...x, ...r } : x)));
  return (
    <div className="code-editor">
      {rows.map((r, i) => (
        <div key={i} className="code-row">
          <Select
            aria-label={words.codeOfLine(i + 1)}
            placeholder={words.code}
            value={r.code}
            options={Array.from({ length: 20 }, (_, n) => n + 1)
              .filter((n) => n === r.code || !rows.some((x) => x.code === n))
              .map((n) => ({ value: n, label: String(n) }))}
            onChange={(code: number) => set(i, { code })}
          />
          <Select
            mode="multiple"
            aria-label={words.faultsOfLine(i + 1)}
            placeholder={words.partAndWhatIs}
            value={r.faults}
            options={faults}
            optionFilterProp="label"
            onChange={(f: string[]) => set(i, { faults: f })}
          />
          <Input
            aria-label={words.meaningOfLine(i + 1)}
            placeholder={words.asTheManualSays}
            maxLength={200}
            value={r.says}
            onChange={(e) => set(i, { says: e.target.value })}
          />
          <Button
            type="text"
            aria-label={words.takeLineOut(i + 1)}
            onClick={() => setRows(rows.filter((_, k) => k !== i))}
          >
            ✕
          </Button>
        </div>
      ))}
      <p>
        <Button disabled={rows.length >= 20} onClick={() => setRows([...rows, { says: "", faults: [] }])}>
          {words.anotherCode}
        </Button>{" "}
        <Button
          type="primary"
          loading={save.isPending}
          disabled={used.length === 0 || controller.trim() === ""}
          onClick={() => save.mutate()}
        >
          {words.keepThisTable}
        </Button>
      </p>
      {save.error && (
        <p className="wrong" role="alert">
          {save.error.message}
        </p>
      )}
    </div>
  );
}

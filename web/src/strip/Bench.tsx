import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { api, must, type Calculator } from "../api/client";
import { useApp } from "../app/context";
import { evidence, useJob, useWrites } from "../job/job";
import { calculate, readKept } from "../offline/sync";
import { useRested } from "../shared/hooks";
import { newId } from "../shared/id";
import { Ring } from "../trace/Ring";
import { asked, inUnit, withUnit } from "../shared/written";
import type { useStrip } from "./strip";
import * as words from "./words";
import Input from "antd/es/input/Input";
import TextArea from "antd/es/input/TextArea";

/** The bench's calculators: a question, its inputs, its answer with formula, source and uncertainty. */
export function Bench({ job, strip }: { job: string; strip: ReturnType<typeof useStrip> }) {
  const [id, setId] = useState<string>();
  const all = useQuery({
    queryKey: ["calculators"],
    queryFn: () => readKept("calculators", () => must(api.GET("/api/calculators"))),
    staleTime: Infinity,
  });
  const groups = [...new Set((all.data ?? []).map((c) => c.group))];
  const calc = all.data?.find((c) => c.id === id);
  return (
    <div className="bench">
      <Select
        aria-label={words.whatToFindOut}
        placeholder={words.whatDoYouWant}
        size="large"
        value={id}
        onChange={setId}
        showSearch
        optionFilterProp="label"
        options={groups.map((g) => ({
          label: g,
          options: all.data!.filter((c) => c.group === g).map((c) => ({ value: c.id, label: c.title })),
        }))}
      />
      {calc ? (
        <Form key={calc.id} calc={calc} job={job} strip={strip} />
      ) : (
        <ul className="bench-list">
          {(all.data ?? []).map((c) => (
            <li key={c.id}>
              <button type="button" className="link" onClick={() => setId(c.id)}>
                {c.title}
              </button>{" "}
              <span className="quiet">{c.answers}</span>
            </li>
          ))}
        </ul>
      )}
      {(strip.view?.notes ?? []).length > 0 && (
        <>
          <h3>{words.keptWithThisJob}</h3>
          <ul>
            {strip.view!.notes.map((n) => (
              <li key={n.id}>
                {n.text}{" "}
                <button type="button" className="link" onClick={() => strip.dropNote.mutate(n.id)}>
                  {words.takeAway}
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
      {(all.error ?? strip.note.error) && (
        <p className="wrong" role="alert">
          {(all.error ?? strip.note.error)?.message}
        </p>
      )}
    </div>
  );
}

const judged: Record<string, string> = {
  good: words.good,
  near: words.nearItsLimit,
  bad: words.bad,
  cannot_tell: words.thisCannotTell,
};

function Form({ calc, job, strip }: { calc: Calculator; job: string; strip: ReturnType<typeof useStrip> }) {
  const { circuit, state } = useJob();
  const { mayWrite } = useApp();
  const { enter } = useWrites(job, state);
  const [values, setValues] = useState<Record<string, string>>({});
  const parts = circuit.stations.filter(
    (s) => s.from && ["motor", "coil", "winding", "capacitor"].includes(s.kind),
  );
  const about = ["winding", "four_wire", "capacitor", "capacitor_current"].includes(calc.id);
  const [part, setPart] = useState(parts.find((p) => p.kind === "motor")?.id ?? parts[0]?.id ?? "");
  const given = useRested(values, 200);
  // A bare figure is in the unit that stands beside its field.
  const units = (v: Record<string, string>) =>
    Object.fromEntries(
      Object.entries(v).map(([k, x]) => [k, withUnit(x, calc.inputs.find((i) => i.id === k)?.unit ?? "")]),
    );
  const ready = calc.inputs.every((i) => i.optional || i.default || (given[i.id] ?? "").trim());
  const q = useQuery({
    queryKey: ["calc", calc.id, given, about ? part : "", job],
    queryFn: () => calculate(job, calc.id, units(given), about ? part : ""),
    enabled: ready,
    retry: false,
    placeholderData: keepPreviousData,
  });
  const r = ready && !q.error ? q.data : undefined;
  return (
    <div className="calc">
      <p>{calc.answers}</p>
      {calc.caution && <p className="caution">⚠ {calc.caution}</p>}
      <div className="calc-inputs">
        {about && parts.length > 0 && (
          <label>
            {words.ofThe}
            <Select
              aria-label={words.part}
              value={part}
              onChange={setPart}
              options={parts.map((p) => ({ value: p.id, label: p.label }))}
            />
          </label>
        )}
        {calc.inputs.map((i) => {
          const set = (v: string) => setValues((s) => ({ ...s, [i.id]: v }));
          return (
            <label key={i.id} className={i.kind === "rows" || i.kind === "list" ? "wide" : ""}>
              {i.label}
              {i.kind === "choice" ? (
                <Select
                  aria-label={i.label}
                  value={values[i.id] ?? i.default}
                  onChange={set}
                  popupMatchSelectWidth={false}
                  options={(i.choices ?? []).map((c) => ({ value: c.id, label: c.label }))}
                />
              ) : i.kind === "rows" || i.kind === "list" ? (
                <TextArea
                  aria-label={i.label}
                  autoSize={{ minRows: 2, maxRows: 8 }}
                  placeholder={i.hint}
                  value={values[i.id] ?? ""}
                  onChange={(e) => set(e.target.value)}
                />
              ) : (
                <Input
                  aria-label={i.label}
                  suffix={i.unit === "F" ? "µF" : i.unit && asked(i.unit)}
                  inputMode="text"
                  placeholder={i.default ? inUnit(i.default, i.unit) : i.optional ? words.ifKnown : ""}
                  value={values[i.id] ?? ""}
                  onChange={(e) => set(e.target.value)}
                />
              )}
              {i.hint && i.kind !== "rows" && i.kind !== "list" && <small className="quiet">{i.hint}</small>}
            </label>
          );
        })}
      </div>
      {q.error && ready && (
        <p className="wrong" role="alert">
          {q.error.message}
        </p>
      )}
      {r && (
        <div className={`calc-answer judged-${r.judged}`} role="status">
          {judged[r.judged] && <b>{judged[r.judged]}</b>}
          <p className="says">{r.says}</p>
          {r.next && (
            <p>
              <b>{words.next}</b> {r.next}
            </p>
          )}
          {r.bars.length > 0 && (
            <Ring
              levels={r.bars}
              weak={r.marked.map((m) => m - 1)}
              mean={r.bars.reduce((a, b) => a + b, 0) / r.bars.length || 1}
            />
          )}
          {r.lines.length > 0 && (
            <dl className="facts">
              {r.lines.map((l) => (
                <div key={l.label}>
                  <dt>{l.label}</dt>
                  <dd>{l.text}</dd>
                </div>
              ))}
            </dl>
          )}
          {r.steps.length > 0 && (
            <ul>
              {r.steps.map((s) => (
                <li key={s}>{s}</li>
              ))}
            </ul>
          )}
          {r.ways.length > 0 && (
            <>
              <h4>{words.twoSchools}</h4>
              <ul>
                {r.ways.map((w) => (
                  <li key={w.way}>
                    <b>{w.way}</b>: {w.why}.
                  </li>
                ))}
              </ul>
            </>
          )}
          {mayWrite && (
            <div className="calc-tools">
              {r.evidence.length > 0 && (
                <Button
                  type="primary"
                  loading={enter.isPending}
                  onClick={() =>
                    enter.mutate({
                      evidence: r.evidence.map((e) => evidence(e)),
                    })
                  }
                >
                  {words.countItAsEvidence}
                </Button>
              )}
              <Button
                loading={strip.note.isPending}
                onClick={() =>
                  strip.note.mutate({
                    id: newId(),
                    text: r.note,
                    detail: { calculator: calc.id, inputs: given, lines: r.lines },
                  })
                }
              >
                {words.keepAsANote}
              </Button>
              {enter.isSuccess && <span className="quiet">{words.counted}</span>}
            </div>
          )}
          {enter.error && (
            <p className="wrong" role="alert">
              {enter.error.message}
            </p>
          )}
        </div>
      )}
      <p className="formula">
        <span>{calc.formula}</span>
        <small className="quiet">{calc.source}</small>
      </p>
    </div>
  );
}

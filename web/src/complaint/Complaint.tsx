import { Button, Checkbox } from "antd";
import { lazy, Suspense, useState } from "react";
import { Link } from "react-router";
import { useApp } from "../app/context";
import { useJob, useWrites } from "../job/job";
import { useLost } from "../offline/sync";
import * as words from "./words";
import TextArea from "antd/es/input/TextArea";

const Known = lazy(async () => ({ default: (await import("./Known")).Known }));

const whens: [string, string][] = [
  ["cold", "cold"],
  ["hot", "hot"],
  ["wet", "wet"],
  ["after_knock", words.afterAKnock],
];

/** What the customer says, and the cautions, read once. Everything saves itself. */
export default function Complaint() {
  const { job, circuit, state } = useJob();
  const { mayWrite } = useApp();
  const lost = useLost();
  const { change } = useWrites(job.id, state);
  const [complaint, setComplaint] = useState(job.complaint);
  const [history, setHistory] = useState(job.history);
  const toggle = (w: string) =>
    change.mutate({ when: job.when.includes(w) ? job.when.filter((x) => x !== w) : [...job.when, w] });
  const saved = change.isPending
    ? words.saving
    : complaint !== job.complaint || history !== job.history
      ? words.leaveTheFieldTo
      : "saved";
  return (
    <main className="page columns">
      <section className="card">
        <h1>{job.machine.name}</h1>
        <p className="quiet">
          {[job.machine.kind, job.machine.place, `${job.machine.voltage} V`, circuit.title]
            .filter(Boolean)
            .join(" · ")}
        </p>
        <label htmlFor="complaint">{words.whatDoesItDo}</label>
        <TextArea
          id="complaint"
          autoSize={{ minRows: 2, maxRows: 8 }}
          maxLength={2000}
          disabled={!mayWrite}
          value={complaint}
          onChange={(e) => setComplaint(e.target.value)}
          onBlur={() => complaint !== job.complaint && change.mutate({ complaint })}
        />
        {(job.diagnosis.complaint ?? []).length > 0 && (
          <p className="quiet">{words.countsUntilSomebodyHas((job.diagnosis.complaint ?? []).join("; "))}</p>
        )}
        <fieldset>
          <legend>{words.when}</legend>
          {whens.map(([w, label]) => (
            <Button
              key={w}
              disabled={!mayWrite}
              type={job.when.includes(w) ? "primary" : "default"}
              aria-pressed={job.when.includes(w)}
              onClick={() => toggle(w)}
            >
              {job.when.includes(w) ? "✓ " : ""}
              {label}
            </Button>
          ))}
        </fieldset>
        <Checkbox
          disabled={!mayWrite}
          checked={job.intermittent}
          onChange={(e) => change.mutate({ intermittent: e.target.checked })}
        >
          {words.itComesAndGoes}
        </Checkbox>
        {job.intermittent && <p className="note">{words.aReadingTakenWhile}</p>}
        <label htmlFor="history">{words.whoHadItApart}</label>
        <TextArea
          id="history"
          autoSize={{ minRows: 2, maxRows: 8 }}
          maxLength={2000}
          disabled={!mayWrite}
          value={history}
          onChange={(e) => setHistory(e.target.value)}
          onBlur={() => history !== job.history && change.mutate({ history })}
        />
        <p className="quiet" role="status">
          {saved}
        </p>
        {change.error && (
          <p className="wrong" role="alert">
            {change.error.message}
          </p>
        )}
      </section>
      <section className="card">
        <h2>{words.beforeYouTouchIt}</h2>
        <ul className="cautions">
          {circuit.cautions.map((c) => (
            <li key={c}>
              <span aria-hidden>⚠</span> {c}
            </li>
          ))}
        </ul>
        {job.cautions_read ? (
          <p>{words.readAndUnderstood}</p>
        ) : (
          mayWrite && (
            <Button type="primary" onClick={() => change.mutate({ cautions_read: true })}>
              {words.complaintReadAndUnderstood}
            </Button>
          )
        )}
        <p>
          <Link to="../checks">{words.quickChecks}</Link> · <Link to="../measure">{words.measure}</Link>
        </p>
        <p>
          {lost ? (
            <span className="away">{words.itCanBeSaved}</span>
          ) : (
            <a href={`/api/jobs/${job.id}/case`} download>
              {words.saveAsACase}
            </a>
          )}
        </p>
      </section>
      <Suspense>
        <Known />
      </Suspense>
    </main>
  );
}

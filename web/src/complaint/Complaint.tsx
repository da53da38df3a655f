import { Button, Checkbox, Input } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { useApp } from "../app/context";
import { useJob, useWrites } from "../job/job";
import { useLost } from "../offline/sync";
import { Known } from "./Known";

const whens: [string, string][] = [
  ["cold", "cold"],
  ["hot", "hot"],
  ["wet", "wet"],
  ["after_knock", "after a knock"],
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
    ? "saving …"
    : complaint !== job.complaint || history !== job.history
      ? "leave the field to save"
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
        <label htmlFor="complaint">What does it do, or not do?</label>
        <Input.TextArea
          id="complaint"
          autoSize={{ minRows: 2, maxRows: 8 }}
          maxLength={2000}
          disabled={!mayWrite}
          value={complaint}
          onChange={(e) => setComplaint(e.target.value)}
          onBlur={() => complaint !== job.complaint && change.mutate({ complaint })}
        />
        {(job.diagnosis.complaint ?? []).length > 0 && (
          <p className="quiet">
            Counts until somebody has looked: {(job.diagnosis.complaint ?? []).join("; ")}.
          </p>
        )}
        <fieldset>
          <legend>When?</legend>
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
          It comes and goes
        </Checkbox>
        {job.intermittent && (
          <p className="note">
            A reading taken while the fault is away clears nothing: say with each one whether the fault was
            there.
          </p>
        )}
        <label htmlFor="history">Who had it apart before, and what is new?</label>
        <Input.TextArea
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
        <h2>Before you touch it</h2>
        <ul className="cautions">
          {circuit.cautions.map((c) => (
            <li key={c}>
              <span aria-hidden>⚠</span> {c}
            </li>
          ))}
        </ul>
        {job.cautions_read ? (
          <p>✓ Read and understood</p>
        ) : (
          mayWrite && (
            <Button type="primary" onClick={() => change.mutate({ cautions_read: true })}>
              Read and understood
            </Button>
          )
        )}
        <p>
          <Link to="../checks">Quick checks</Link> · <Link to="../measure">Measure</Link>
        </p>
        <p>
          {lost ? (
            <span className="away">It can be saved as a case file when the connection is back.</span>
          ) : (
            <a href={`/api/jobs/${job.id}/case`} download>
              Save as a case file
            </a>
          )}
        </p>
      </section>
      <Known />
    </main>
  );
}

import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { Link } from "react-router";
import { api, must } from "../api/client";
import { useJob } from "../job/job";
import { CurrentPath } from "../measure/CurrentPath";
import { PathStrip } from "../measure/PathStrip";
import { useNarrow } from "../shared/hooks";

const sheets = [
  [
    "customer",
    "For the customer",
    "One page in plain words: what was wrong, found, done and paid, before and after.",
  ],
  [
    "file",
    "For the file",
    "Everything: readings with their uncertainty, reasoning, strip-down, photos, costs.",
  ],
  ["label", "Label for the machine", "Date, what and by whom; a temporary repair says so, with its limit."],
] as const;

/** The papers of a job, to look at, print and send. */
export default function Report() {
  const { job } = useJob();
  const narrow = useNarrow();
  const Path = narrow ? PathStrip : CurrentPath;
  const paper = useQuery({
    queryKey: ["paper", job.id, job.revision],
    queryFn: () => must(api.GET("/api/jobs/{id}/paper", { params: { path: { id: job.id } } })),
  });
  const p = paper.data;
  const exercise = useMutation({
    mutationFn: () => must(api.POST("/api/jobs/{id}/exercise", { params: { path: { id: job.id } } })),
  });
  return (
    <main className="page report">
      <div className="sheets">
        {sheets.map(([id, label, what]) => (
          <section key={id} className="card">
            <h2>{label}</h2>
            <p>{what}</p>
            <p>
              <Button
                type={id === "customer" ? "primary" : "default"}
                size="large"
                href={`/api/jobs/${job.id}/report/${id}`}
                target="_blank"
              >
                Open the PDF
              </Button>
            </p>
          </section>
        ))}
      </div>
      {job.proved && (
        <p>
          <Button loading={exercise.isPending} onClick={() => exercise.mutate()}>
            Make an exercise of this job
          </Button>{" "}
          {exercise.isSuccess && "✓ It stands in the trainer, under “From our own workshop”."}
          {exercise.error && <span className="wrong">{exercise.error.message}</span>}
        </p>
      )}
      {job.decisions.length === 0 && (
        <p className="quiet">
          Nothing is decided yet: the papers say what is known so far. <Link to="../decide">Decide</Link>
        </p>
      )}
      <section className="card printable">
        <h1>{job.machine.name}</h1>
        <p className="quiet">
          {job.title} · opened {new Date(job.opened_at).toLocaleDateString()}
        </p>
        <h2>What was wrong</h2>
        <p>“{job.complaint || "no complaint was noted"}”</p>
        <h2>What we found</h2>
        <p className="figure">{p?.found ?? job.diagnosis.verdict.says}</p>
        {paper.error && (
          <p className="wrong" role="alert">
            {paper.error.message}
          </p>
        )}
        {p?.done && (
          <>
            <h2>{p.after ? "What we did" : "What is to be done"}</h2>
            <p>
              {p.done}. {p.choice}
            </p>
          </>
        )}
        {p?.limit && (
          <p className="caution">
            ⚠ Temporary{p.until ? `, until ${new Date(p.until).toLocaleDateString()}` : ""}: {p.limit}
          </p>
        )}
        {[
          { title: "Before", pic: p?.before },
          { title: "After", pic: p?.after },
        ].map(({ title, pic }) =>
          pic ? (
            <figure key={title} className="paper-path">
              <figcaption>{title}: how the current comes through</figcaption>
              <Path picture={pic} onNode={() => undefined} onStation={() => undefined} />
            </figure>
          ) : null,
        )}
        {p && p.checks.length > 0 && (
          <>
            <h2>{p.proof ? "How we know it is good" : "How we shall know that it is good"}</h2>
            <table>
              <thead>
                <tr>
                  <th>Checked</th>
                  <th>Before</th>
                  <th>After</th>
                  <th>Good is</th>
                </tr>
              </thead>
              <tbody>
                {p.checks.map((c) => (
                  <tr key={c.label}>
                    <td>{c.label}</td>
                    <td>{c.before}</td>
                    <td>{c.after}</td>
                    <td>{c.good}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {p.proof && (
              <p>
                <b>
                  {p.proof} {p.remark}
                </b>
              </p>
            )}
          </>
        )}
        {(p?.paid ?? p?.estimate) !== undefined && (
          <>
            <h2>What it came to</h2>
            <p>
              {p?.paid !== undefined
                ? `${p.paid.toFixed(2)}${p.estimate !== undefined ? ` (estimated ${p.estimate.toFixed(2)})` : ""}`
                : `estimated ${p?.estimate?.toFixed(2)}`}
            </p>
          </>
        )}
        {p && p.watch.length > 0 && (
          <>
            <h2>What to watch</h2>
            <ul>
              {p.watch.map((w) => (
                <li key={w}>{w}</li>
              ))}
            </ul>
          </>
        )}
        <p className="no-print">
          <Button onClick={() => window.print()}>Print this page</Button>
        </p>
      </section>
    </main>
  );
}

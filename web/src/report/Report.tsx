import { useMutation } from "@tanstack/react-query";
import { Button } from "antd";
import { Link } from "react-router";
import { api, must } from "../api/client";
import { useJob } from "../job/job";

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
        <p className="figure">{job.diagnosis.verdict.says}</p>
        {job.decisions.length > 0 && (
          <>
            <h2>What we did</h2>
            <p>
              {job.decisions.at(-1)!.label || job.decisions.at(-1)!.option}, agreed at{" "}
              {job.decisions.at(-1)!.price.toFixed(2)}.
            </p>
          </>
        )}
        <p className="no-print">
          <Button onClick={() => window.print()}>Print this page</Button>
        </p>
      </section>
    </main>
  );
}

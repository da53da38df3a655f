import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { Link } from "react-router";
import { api, must, type Paper } from "../api/client";
import { day } from "../shared/format";
import { useJob } from "../job/job";
import { readKept, useLost } from "../offline/sync";
import * as words from "./words";

const sheets = [
  ["customer", words.forTheCustomer, words.onePageInPlain],
  ["file", words.forTheFile, words.everythingReadingsWithTheir],
  ["label", words.labelForTheMachine, words.dateWhatAndBy],
] as const;

/** The papers of a job, to look at, print and send. */
export default function Report() {
  const { job } = useJob();
  const lost = useLost();
  const paper = useQuery({
    queryKey: ["paper", job.id, job.revision],
    queryFn: () =>
      readKept(`paper ${job.id}`, () =>
        must(api.GET("/api/jobs/{id}/paper", { params: { path: { id: job.id } } })),
      ),
  });
  const exercise = useMutation({
    mutationFn: () => must(api.POST("/api/jobs/{id}/exercise", { params: { path: { id: job.id } } })),
  });
  return (
    <main className="page report">
      {lost && <p className="away">{words.thePapersAreMade}</p>}
      <div className="sheets">
        {sheets.map(([id, label, what]) => (
          <section key={id} className="card">
            <h2>{label}</h2>
            <p>{what}</p>
            <p>
              <Button
                type={id === "customer" ? "primary" : "default"}
                size="large"
                disabled={lost}
                href={`/api/jobs/${job.id}/report/${id}`}
                target="_blank"
              >
                {words.openThePdf}
              </Button>
            </p>
          </section>
        ))}
      </div>
      {job.proved && (
        <p>
          <Button loading={exercise.isPending} disabled={lost} onClick={() => exercise.mutate()}>
            {words.makeAnExerciseOf}
          </Button>{" "}
          {exercise.isSuccess && words.itStandsInThe}
          {exercise.error && <span className="wrong">{exercise.error.message}</span>}
        </p>
      )}
      {job.work.length === 0 && (
        <p className="quiet">
          {words.nothingIsDecidedYet} <Link to="../decide">{words.decide}</Link>
        </p>
      )}
      {paper.error && (
        <p className="wrong" role="alert">
          {paper.error.message}
        </p>
      )}
      {paper.data && <Sheet p={paper.data} />}
    </main>
  );
}

/** The customer's page, word for word what the PDF says. */
function Sheet({ p }: { p: Paper }) {
  return (
    <section className="card printable" aria-label={words.theCustomersPage}>
      {p.logo && (
        <img
          src={`/api/photos/${p.logo}`}
          alt={p.workshop}
          style={{ maxWidth: 230, maxHeight: 60, display: "block", marginBottom: 8 }}
        />
      )}
      <p className="paper-top">
        <span>
          {p.workshop}
          {p.address?.split("\n").map((l, i) => (
            <small key={i} style={{ display: "block" }}>
              {l}
            </small>
          ))}
        </span>
        <span>{words.job(p.job, day(p.opened))}</span>
      </p>
      <h1>{p.title}</h1>
      <p className="quiet">{p.sub}</p>
      {p.sections.map((s) => (
        <section key={s.id}>
          <h2>{s.head}</h2>
          <Lines lines={s.lines} />
          {s.table && (
            <table>
              <colgroup>
                {s.table.share.map((w, i) => (
                  <col key={i} style={{ width: `${w * 100}%` }} />
                ))}
              </colgroup>
              <thead>
                <tr>
                  {s.table.head.map((h, i) => (
                    <th key={i}>{h}</th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {s.table.rows.map((r, i) => (
                  <tr key={i}>
                    {r.map((c, k) => (
                      <td key={k}>{c}</td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          <Lines lines={s.after ?? []} />
        </section>
      ))}
      <p className="quiet">{p.foot}</p>
      <p className="no-print">
        <Button onClick={() => window.print()}>{words.printThisPage}</Button>
      </p>
    </section>
  );
}

function Lines({ lines }: { lines: Paper["sections"][number]["lines"] }) {
  const points = lines.filter((l) => l.style === "point");
  return (
    <>
      {lines.map((l, i) =>
        l.style === "point" ? null : (
          <p key={i} className={l.style ? `paper-${l.style}` : undefined}>
            {l.style === "caution" && "⚠ "}
            {l.text}
          </p>
        ),
      )}
      {points.length > 0 && (
        <ul>
          {points.map((l) => (
            <li key={l.text}>{l.text}</li>
          ))}
        </ul>
      )}
    </>
  );
}

import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, must, type SuspicionView } from "../api/client";
import { useJob } from "../job/job";
import { share } from "../shared/format";
import css from "./Suspicion.module.css";
import * as words from "./words";

/** How suspicion went: a row for each explanation, a bar for each reading; the numbers one touch away. */
export function Suspicion() {
  const { job } = useJob();
  const [numbers, setNumbers] = useState(false);
  const [at, setAt] = useState<number>();
  const q = useQuery({
    queryKey: ["suspicion", job.id, job.revision],
    queryFn: () => must(api.GET("/api/jobs/{id}/suspicion", { params: { path: { id: job.id } } })),
    placeholderData: (prev: SuspicionView | undefined) => prev,
    staleTime: Infinity,
  });
  const v = q.data;
  if (q.error)
    return (
      <p className="wrong" role="alert">
        {q.error.message}
      </p>
    );
  if (!v) return <p className="quiet">{words.weighingEachReadingAgain}</p>;
  if (v.steps.length < 2) return <p className="quiet">{words.nothingWasReadYet}</p>;
  const last = v.steps.length - 1;
  const shown = Math.min(at ?? last, last);
  const step = v.steps[shown]!;
  return (
    <div className={css.went}>
      <div className={css.tools}>
        <span>{words.leftBeforeAnythingWas}</span>
        <Button aria-pressed={numbers} onClick={() => setNumbers(!numbers)}>
          {numbers ? words.picture : words.numbers}
        </Button>
      </div>
      {numbers ? (
        <Numbers v={v} />
      ) : (
        <>
          <div className={css.rows} onPointerLeave={() => setAt(undefined)}>
            {v.lines.map((l) => (
              <div
                key={l.label}
                className={css.row}
                role="img"
                aria-label={`${l.label}: ${l.shares.map(share).join(", then ")}`}
              >
                <span className={css.label}>{l.label}</span>
                <span className={css.bars}>
                  {l.shares.map((p, k) => (
                    <i key={k} className={k === shown ? css.here : undefined} onPointerEnter={() => setAt(k)}>
                      <b style={{ height: `${Math.max(100 * p, p > 0 ? 3 : 0)}%` }} />
                    </i>
                  ))}
                </span>
                <span className={css.share}>{share(l.shares[shown]!)}</span>
              </div>
            ))}
          </div>
          <div className={css.tools}>
            <Button aria-label={words.oneReadingBack} disabled={shown === 0} onClick={() => setAt(shown - 1)}>
              ◀
            </Button>
            <span role="status">{step.says ? `${shown}. ${step.says}` : words.beforeAnythingWasRead}</span>
            <Button
              aria-label={words.oneReadingOn}
              disabled={shown === last}
              onClick={() => setAt(shown + 1)}
            >
              ▶
            </Button>
          </div>
        </>
      )}
    </div>
  );
}

function Numbers({ v }: { v: SuspicionView }) {
  return (
    <div className={css.scroll}>
      <table>
        <thead>
          <tr>
            <th scope="col">{words.after}</th>
            {v.lines.map((l) => (
              <th key={l.label} scope="col">
                {l.label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {v.steps.map((s, k) => (
            <tr key={s.after}>
              <th scope="row">{s.says || words.nothingYet}</th>
              {v.lines.map((l) => (
                <td key={l.label}>{share(l.shares[k]!)}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

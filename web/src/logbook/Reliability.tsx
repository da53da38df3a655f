import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, must } from "../api/client";
import { fixed } from "../shared/written";
import { Times } from "./Times";
import * as words from "./words";

/** How often the verdict was right, by what it claimed; readings and minutes a job; what it got wrong. */
export function Reliability() {
  const q = useQuery({
    queryKey: ["reliability"],
    queryFn: () => must(api.GET("/api/reliability")),
  });
  const v = q.data;
  if (q.error)
    return (
      <p className="wrong" role="alert">
        {q.error.message}
      </p>
    );
  if (!v) return <p className="quiet">{words.counting}</p>;
  if (v.claims === 0) return <p className="empty">{words.noVerdictWasConfirmed}</p>;
  const size = 320;
  const pad = 36;
  const at = (p: number) => pad + (size - pad - 26) * p;
  const y = (p: number) => size - at(p);
  return (
    <section className="card reliability">
      <h1>{words.rightOfTimes(v.right, v.claims)}</h1>
      <p>
        {words.readingsAndLooksA(fixed(v.readings, 1))}
        {v.minutes > 0 && words.minutesOfThem(fixed(v.minutes, 0))}.
      </p>
      <p className="quiet">{words.acrossHowSure}</p>
      <div className="reliability-grid">
        <svg
          viewBox={`0 0 ${size} ${size}`}
          role="img"
          aria-label={v.bands
            .map((b) => words.claimedPerCentRight(Math.round(100 * b.mean), Math.round(100 * b.right), b.n))
            .join("; ")}
        >
          <line x1={at(0)} y1={y(0)} x2={at(1)} y2={y(1)} className="ideal" />
          {[0, 0.5, 1].map((p) => (
            <g key={p}>
              <text x={at(p)} y={size - 12} textAnchor="middle">
                {100 * p} %
              </text>
              <text x={pad - 6} y={y(p) + 5} textAnchor="end">
                {100 * p}
              </text>
            </g>
          ))}
          {v.bands.map((b) => (
            <g key={b.low}>
              <line x1={at(b.mean)} x2={at(b.mean)} y1={y(b.w_low)} y2={y(b.w_high)} className="interval" />
              <circle cx={at(b.mean)} cy={y(b.right)} r={Math.min(10, 4 + Math.sqrt(b.n) / 2)} />
            </g>
          ))}
        </svg>
        <table>
          <thead>
            <tr>
              <th>{words.claimed}</th>
              <th>{words.jobs}</th>
              <th>{words.right}</th>
              <th>{words.interval95}</th>
            </tr>
          </thead>
          <tbody>
            {v.bands.map((b) => (
              <tr key={b.low}>
                <td>{fixed(100 * b.mean, 1)} %</td>
                <td>{b.n}</td>
                <td>{fixed(100 * b.right, 0)} %</td>
                <td>{words.to(fixed(100 * b.w_low, 0), fixed(100 * b.w_high, 0))}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Times times={v.times} />
      <h2>{words.whatItGotWrong}</h2>
      {v.wrong.length === 0 && <p className="quiet">{words.nothingYet}</p>}
      <ul>
        {v.wrong.map((e) => (
          <li key={e.id}>
            <Link to={`/jobs/${e.id}/measure`}>
              {e.machine}, {e.title}
            </Link>
            {words.itWas(e.fault || words.nothing)} <small className="quiet">{e.says}</small>
          </li>
        ))}
      </ul>
    </section>
  );
}

import type { CSSProperties } from "react";
import type { LearnView } from "../api/client";
import { upper } from "../shared/format";
import css from "./pictures.module.css";
import * as words from "./words";

/** How many faults stand in the picture; the rest are in the list below it. */
const MOST = 10;

/** What was confirmed on each kind of machine: the larger the dot, the more often. */
export function ByKind({ kinds }: { kinds: LearnView["by_kind"] }) {
  if (!kinds || kinds.length === 0) return null;
  const total = new Map<string, { label: string; n: number }>();
  for (const k of kinds)
    for (const f of k.faults ?? [])
      total.set(f.fault, { label: f.label, n: (total.get(f.fault)?.n ?? 0) + f.n });
  const faults = [...total].sort((a, b) => b[1].n - a[1].n).slice(0, MOST);
  const most = Math.max(...kinds.flatMap((k) => (k.faults ?? []).map((f) => f.n)));
  return (
    <div className={css.scroll}>
      <table className={css.kinds}>
        <caption>{words.whatItWasByKind}</caption>
        <thead>
          <tr>
            <td />
            {kinds.map((k) => (
              <th key={k.kind} scope="col">
                {upper(k.kind) || words.noKind} <small>{words.jobsOfKind(k.of)}</small>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {faults.map(([id, f]) => (
            <tr key={id}>
              <th scope="row">{f.label}</th>
              {kinds.map((k) => {
                const n = k.faults?.find((x) => x.fault === id)?.n ?? 0;
                return (
                  <td key={k.kind}>
                    {n > 0 && (
                      <span className={css.dot} style={{ "--size": Math.sqrt(n / most) } as CSSProperties}>
                        {n}
                      </span>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

import { Button } from "antd";
import { useState } from "react";
import type { OptionsView } from "../api/client";
import { useMoney } from "../app/context";
import { useWidth } from "../shared/hooks";
import { fixed } from "../shared/written";
import css from "./OverYears.module.css";
import * as words from "./words";

const TALL = 190;
const LEFT = 64;
const FOOT = 26;
/** How far apart two names at the ends of lines must be, px. */
const APART = 17;
const dashes = ["", "7 4", "2 4", "10 3 2 3"];

const stays = (y: number) =>
  y < 1 ? words.months(fixed(12 * y, 0)) : `${fixed(y, y % 1 ? 1 : 0)} ${words.years(y)}`;

/** What the plans cost in all by how long the machine stays: where the lines cross, another one is cheaper. */
export function OverYears({ over, asked }: { over: OptionsView["over_years"]; asked: number }) {
  const money = useMoney();
  const [numbers, setNumbers] = useState(false);
  const [ref, width] = useWidth<HTMLDivElement>();
  if (!over || over.plans.length === 0) return null;
  const { years, plans } = over;
  const last = years.at(-1)!;
  const all = plans.flatMap((p) => p.costs);
  const most = 1.05 * Math.max(...all);
  // Not from zero: what matters is where the lines cross.
  const least = 0.85 * Math.min(...all);
  // The names stand at the ends of their lines, where there is room for them.
  const names = width > 560 ? 210 : 12;
  const x = (y: number) => LEFT + (y / last) * (width - LEFT - names);
  const y = (c: number) => 8 + (TALL - FOOT - 8) * (1 - (c - least) / Math.max(most - least, 1e-9));
  const ends = spread(plans.map((p) => y(p.costs.at(-1)!)));
  return (
    <div ref={ref} className={css.over}>
      <div className={css.head}>
        <h2>{words.whatItCostsBy}</h2>
        <Button aria-pressed={numbers} onClick={() => setNumbers(!numbers)}>
          {numbers ? words.picture : words.numbers}
        </Button>
      </div>
      {numbers ? (
        <div className={css.scroll}>
          <table>
            <thead>
              <tr>
                <th scope="col">{words.itStays}</th>
                {plans.map((p) => (
                  <th key={p.id} scope="col">
                    {p.label}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {years.map((v, k) => (
                <tr key={v}>
                  <th scope="row">{stays(v)}</th>
                  {plans.map((p) => (
                    <td key={p.id}>{money(p.costs[k]!)}</td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        width > 0 && (
          <svg
            width={width}
            height={TALL}
            role="img"
            aria-label={plans
              .map((p) => words.atOnceIn(p.label, money(p.costs[0]!), money(p.costs.at(-1)!), stays(last)))
              .join("; ")}
          >
            {[least, (least + most) / 2, most].map((c) => (
              <g key={c}>
                <line className={css.grid} x1={LEFT} x2={width - names} y1={y(c)} y2={y(c)} />
                <text className={css.tick} x={LEFT - 8} y={y(c) + 5} textAnchor="end">
                  {money(c)}
                </text>
              </g>
            ))}
            {[asked, last].map((v) => (
              <g key={v}>
                <line className={css.grid} x1={x(v)} x2={x(v)} y1={8} y2={TALL - FOOT} />
                <text className={css.tick} x={x(v)} y={TALL - 6} textAnchor={v === last ? "end" : "middle"}>
                  {stays(v)}
                </text>
              </g>
            ))}
            {plans.map((p, i) => (
              <g key={p.id} className={i === 0 ? css.best : css.line}>
                <polyline
                  points={p.costs.map((c, k) => `${x(years[k]!)},${y(c)}`).join(" ")}
                  strokeDasharray={dashes[i]}
                />
                {names > 12 && (
                  <text x={width - names + 8} y={ends[i]! + 5}>
                    {p.label.length > 30 ? `${p.label.slice(0, 28)}…` : p.label}
                  </text>
                )}
              </g>
            ))}
          </svg>
        )
      )}
      {!numbers && names === 12 && (
        <ul className={css.key}>
          {plans.map((p, i) => (
            <li key={p.id}>
              <svg width={34} height={8} aria-hidden className={i === 0 ? css.best : css.line}>
                <polyline points="0,4 34,4" strokeDasharray={dashes[i]} />
              </svg>
              {p.label}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** Heights moved apart so that the names do not lie on each other, in their order. */
function spread(ys: number[]): number[] {
  const out = [...ys];
  const order = ys.map((_, i) => i).sort((a, b) => ys[a]! - ys[b]!);
  for (let k = 1; k < order.length; k++)
    out[order[k]!] = Math.max(out[order[k]!]!, out[order[k - 1]!]! + APART);
  const over = Math.max(0, Math.max(...out) - (TALL - FOOT));
  return out.map((v) => v - over);
}

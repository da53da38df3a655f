import { useEffect, useState } from "react";
import type { AttemptView } from "../api/client";
import * as words from "./words";

type Done = AttemptView["log"][number];

/**
 * The meter's display as a meter behaves: it climbs through its ranges, runs in and stays.
 * What is read out is what it came to. Give it the move's number as its key.
 */
export function Display({ last, fresh }: { last?: Done; fresh: boolean }) {
  const frames = fresh ? (last?.frames ?? []) : [];
  const [shown, setShown] = useState(() =>
    window.matchMedia("(prefers-reduced-motion: reduce)").matches ? frames.length - 1 : 0,
  );
  useEffect(() => {
    const timers = frames.slice(shown + 1).map((f, i) => setTimeout(() => setShown(shown + 1 + i), f.at_ms));
    return () => timers.forEach(clearTimeout);
    // One display is one move: its frames never change.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  const settled = shown >= frames.length - 1;
  const text = frames[Math.max(0, shown)]?.shown ?? last?.shown ?? "– – –";
  return (
    <div className="lcd" aria-busy={!settled}>
      <b aria-hidden={!settled}>{settled ? (last?.shown ?? "– – –") : text}</b>
      {settled && last?.least && (
        <small className="kept">
          {words.sinceSwitchingOnLeast(last.least)} {last.most}
        </small>
      )}
      <small role="status">
        {settled ? last?.says : words.settling}
        {settled && last?.works != null && (last.works ? words.itWorksJustNow : words.itFailsJustNow)}
      </small>
      {settled && last?.sweep && <Scope sweep={last.sweep} />}
    </div>
  );
}

/** A few turns of the motor's current. */
function Scope({ sweep }: { sweep: NonNullable<Done["sweep"]> }) {
  const { amperes, seconds } = sweep;
  const w = 480;
  const h = 150;
  const most = Math.max(...amperes) * 1.1;
  const points = amperes
    .map(
      (a, i) =>
        `${((w * i) / (amperes.length - 1)).toFixed(1)},${(h - (h * Math.max(a, 0)) / most).toFixed(1)}`,
    )
    .join(" ");
  const mean = amperes.reduce((a, b) => a + b, 0) / amperes.length;
  return (
    <svg
      className="sweep"
      viewBox={`0 0 ${w} ${h}`}
      role="img"
      aria-label={words.theCurrentOverMilliseconds((1000 * seconds).toFixed(0), mean.toFixed(1))}
    >
      {[0.25, 0.5, 0.75].map((x) => (
        <line key={x} className="grid" x1={w * x} x2={w * x} y1={0} y2={h} />
      ))}
      <polyline points={points} />
      <text x={6} y={20}>
        {most.toFixed(0)} A
      </text>
      <text x={w - 4} y={h - 6} textAnchor="end">
        {words.msFourTurns((1000 * seconds).toFixed(0))}
      </text>
    </svg>
  );
}

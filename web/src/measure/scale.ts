// Where things stand in the picture. The volts come from the core; this only
// turns them into pixels.
import type { PictureNode } from "../api/client";

export interface Scale {
  y: (v: number) => number;
  ticks: number[];
  low: number;
  high: number;
}

const steps = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20];

/** A scale over the volts of one side of the motor, never finer than `least` from bottom to top. */
export function scaleFor(
  nodes: PictureNode[],
  top: number,
  bottom: number,
  least: number,
  fromZero: boolean,
): Scale {
  let low = Infinity;
  let high = -Infinity;
  for (const n of nodes) {
    const xs =
      n.measured !== undefined ? [n.measured, n.ghost] : n.loose ? [n.ghost] : [n.low, n.high, n.ghost];
    for (const v of xs) {
      low = Math.min(low, v);
      high = Math.max(high, v);
    }
  }
  if (!Number.isFinite(low)) [low, high] = [0, 12];
  if (fromZero) low = Math.min(low, 0);
  const spare = Math.max(least - (high - low), 0);
  if (fromZero) high += spare;
  else low -= spare;
  const pad = (high - low) * 0.06;
  high += pad;
  low -= pad;
  const step = steps.find((s) => (high - low) / s <= 6) ?? 50;
  const ticks: number[] = [];
  for (let t = Math.ceil(low / step) * step; t <= high + 1e-9; t += step)
    ticks.push(Math.round(t * 1e6) / 1e6);
  return {
    y: (v) => bottom - ((Math.min(Math.max(v, low), high) - low) / (high - low)) * (bottom - top),
    ticks,
    low,
    high,
  };
}

/** Station labels broken into at most two lines of about n characters. */
export function wrap(label: string, n: number): string[] {
  if (label.length <= n) return [label];
  const words = label.split(" ");
  const lines = [""];
  for (const w of words) {
    const cur = lines[lines.length - 1]!;
    if (cur && (cur + " " + w).length > n && lines.length < 2) lines.push(w);
    else lines[lines.length - 1] = cur ? `${cur} ${w}` : w;
  }
  return lines;
}

/** How a step reads: within its limit, over it, or not known yet. */
export function judge(drop: number | undefined, allowed: number): "unknown" | "good" | "near" | "bad" {
  // Where next to nothing may be lost next to nothing flows: two counts of a meter decide nothing.
  if (drop === undefined || allowed < 0.02) return "unknown";
  const share = Math.abs(drop) / allowed;
  return share > 1.2 ? "bad" : share > 0.9 ? "near" : "good";
}

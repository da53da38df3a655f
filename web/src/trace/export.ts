// What a trace is saved as: the same columns as the command line writes.
import type { Point, TraceView } from "./engine";

/** The name of a file without its ending. */
export const stem = (name: string) => name.replace(/\.[a-z0-9]{1,5}$/i, "") || "trace";

/** A field of a CSV file; quoted where it must be. */
const field = (v: unknown) => {
  const t = typeof v === "string" ? v : v === null || v === undefined ? "" : JSON.stringify(v);
  return /[",\n]/.test(t) ? `"${t.replaceAll('"', '""')}"` : t;
};

/** The figures of an analysis, one a line: name, value. Lists stand in one field. */
export const figures = (r: TraceView["result"]) =>
  [
    "name,value",
    ...Object.entries(r).map(([k, v]) => `${k},${field(Array.isArray(v) ? v.join(" ") : v)}`),
  ].join("\n") + "\n";

/** A trace in columns, each with the least and greatest of its samples. */
export const columns = (points: Point[]) =>
  ["t_s,low_a,high_a", ...points.map((p) => `${p.t},${p.low},${p.high}`)].join("\n") + "\n";

// How the workshop writes figures: a decimal comma, and °F, AWG, inches and pound feet beside the metric ones. The core
// writes them metric with a point; this writes them for the eye, from the same examples as the papers.
import * as words from "./words";
interface Style {
  imperial: boolean;
  comma: boolean;
}

let style: Style = { imperial: false, comma: false };

/** Says how this workshop writes; it holds for what is read from then on. */
export function writeLike(w: { imperial?: boolean; decimal_comma?: boolean }) {
  style = { imperial: w.imperial ?? false, comma: w.decimal_comma ?? false };
}

const metric = /(× ?)?(-?\d+(?:\.\d+)?)(?: to (-?\d+(?:\.\d+)?))? ?(°C|mm²|mm|Nm)/g;
const point = /(^|[^\d.])(\d+)\.(\d+)([^\d.]|\.?$|\.[^\d])/g;

/** A sentence as this workshop writes it. */
export function written(text: string, s: Style = style): string {
  let out = text;
  if (s.imperial) out = out.replace(metric, beside);
  if (s.comma) for (let i = 0; i < 2; i++) out = out.replace(point, "$1$2,$3$4");
  return out;
}

function beside(
  all: string,
  times: string | undefined,
  one: string,
  two: string | undefined,
  unit: string,
  at: number,
  text: string,
): string {
  const rest = text.slice(at + all.length);
  if (times || rest.startsWith(" ×") || /^[ (]*AWG/.test(rest) || /^[a-zA-Z]/.test(rest)) return all;
  let says = other(Number(one), unit);
  if (two !== undefined) says += ` to ${other(Number(two), unit).replace("AWG ", "")}`;
  const name = { "°C": " °F", mm: " in", Nm: " lb ft" }[unit] ?? "";
  return `${all} (${says}${name})`;
}

/** A metric figure in the other unit: 25.4 mm to the inch, 1.3558 N·m to the pound foot, gauges as in ASTM B258. */
function other(v: number, unit: string): string {
  if (unit === "°C") return ((v * 9) / 5 + 32).toFixed(0);
  if (unit === "mm") return (v / 25.4).toFixed(v >= 25.4 ? 2 : 3);
  if (unit === "Nm") return (v / 1.3558179483).toFixed(1);
  if (!(v > 0)) return "AWG –";
  const n = Math.round(36 - (39 * Math.log((2 * Math.sqrt(v / Math.PI)) / 0.127)) / Math.log(92));
  return n < 1 ? `AWG ${1 - n}/0` : `AWG ${n}`;
}

/** A figure with its decimals, as this workshop writes it. */
export const fixed = (v: number, decimals: number) => written(v.toFixed(decimals));

/** A sum as this workshop writes it: between a decimal comma and one for thousands nobody can tell. */
export const sum = (v: number, how: Intl.NumberFormatOptions) =>
  written(v.toLocaleString(words.language, { ...how, useGrouping: !style.comma }));

/** The unit in which a bare figure is taken where this workshop is asked for one. */
export const asked = (unit: string) =>
  (style.imperial && { "°C": "°F", "mm²": "AWG", mm: "in" }[unit]) || unit;

/** A metric figure in the unit that stands beside its field. */
export function inUnit(figure: string, unit = ""): string {
  const v = Number(figure);
  return asked(unit) === unit || Number.isNaN(v) ? figure : other(v, unit).replace("AWG ", "");
}

/** What was typed, with the unit that stood beside the field where a bare figure was typed. */
export function withUnit(typed: string, unit: string): string {
  const u = asked(unit);
  if (u === unit || !/^-?[\d.,/]+$/.test(typed.trim())) return typed;
  return u === "AWG" ? `AWG ${typed.trim()}` : `${typed.trim()} ${u}`;
}

// What of an answer is a sentence of the core's; what people typed is not among them.
const sentences = new Set([
  "says",
  "plain",
  "shown",
  "good_says",
  "before_says",
  "after_says",
  "next",
  "why",
  "torque",
  "verdict",
  "ruled",
  "sub",
  "learned",
  "steps",
  "warnings",
  "notes",
  "bands",
]);

/** Writes the sentences of an answer as this workshop does, in place. */
export function inOurWriting<T>(v: T): T {
  if (style.imperial || style.comma) walk(v);
  return v;
}

function walk(v: unknown) {
  if (Array.isArray(v)) return v.forEach(walk);
  if (!v || typeof v !== "object") return;
  const o = v as Record<string, unknown>;
  // A line of a calculator's answer is a label with its text; a typed line has an id.
  const line = typeof o.text === "string" && typeof o.label === "string" && !("id" in o);
  for (const [k, x] of Object.entries(o)) {
    if (typeof x === "string") {
      if (sentences.has(k) || (line && k === "text")) o[k] = written(x);
    } else if (sentences.has(k) && Array.isArray(x)) {
      o[k] = x.map((s: unknown) => (typeof s === "string" ? written(s) : (walk(s), s)));
    } else walk(x);
  }
}

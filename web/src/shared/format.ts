// Writing figures. Nothing here computes: the core did.
import { fixed } from "./written";
import * as words from "./words";

const places = (v: number) => (Math.abs(v) >= 99.95 ? 0 : Math.abs(v) >= 9.995 ? 1 : 2);

/** An SI value with its unit, as a technician writes it. */
export function quantity(v: number, measure: string): string {
  const a = Math.abs(v);
  if (measure === "voltage" || measure === "ac_voltage") return `${fixed(v, 2)} V`;
  if (measure === "capacitance") return `${fixed(v * 1e6, places(v * 1e6))} µF`;
  if (measure === "frequency") return `${fixed(v, 1)} Hz`;
  const unit = measure === "current" ? "A" : "Ω";
  if (a === 0 || (unit === "A" && a < 0.0005)) return `0 ${unit}`;
  if (a < 1 && unit === "Ω" && a >= 0.0995) return `${fixed(v, 2)} Ω`;
  if (a < 1) return `${fixed(v * 1e3, places(v * 1e3))} m${unit}`;
  if (a < 1e3) return `${fixed(v, places(v))} ${unit}`;
  if (a < 1e6) return `${fixed(v / 1e3, places(v / 1e3))} k${unit}`;
  return `${fixed(v / 1e6, places(v / 1e6))} M${unit}`;
}

/** "11.2 to 11.8 V"; one figure where both ends look alike; the unit once where it is the same. */
export function range(low: number, high: number, measure: string): string {
  const l = quantity(low, measure);
  const h = quantity(high, measure);
  if (l === h) return words.about(l);
  const [lu, hu] = [l.split(" ")[1], h.split(" ")[1]];
  return lu === hu ? `${l.split(" ")[0]} to ${h}` : words.to(l, h);
}

/** A probability, honest at both ends. */
export function share(p: number): string {
  if (p < 0.01) return words.under1;
  if (p > 0.99) return words.over99;
  return `${Math.round(p * 100)} %`;
}

export function minutes(m: number): string {
  if (m < 1) return words.underAMinute;
  const r = Math.round(m);
  return words.minutes(r);
}

export function age(iso: string, now = Date.now()): string {
  const h = (now - Date.parse(iso)) / 3.6e6;
  if (h < 1) return words.justNow;
  if (h < 24) return `${Math.floor(h)} h`;
  const d = Math.floor(h / 24);
  return words.days(d);
}

export function upper(s: string): string {
  return s.charAt(0).toUpperCase() + s.slice(1);
}

export function lower(s: string): string {
  return s.charAt(0).toLowerCase() + s.slice(1);
}

/** How much an answer would tell, or told, in words: bits are for those who compute. */
export const tells = (bits: number) => (bits >= 0.5 ? "much" : bits >= 0.1 ? "some" : "little");

const date = (t: Date, how: Intl.DateTimeFormatOptions) => t.toLocaleDateString(words.language, how);

/** A day in the one form that screens and papers share: 28 November 2026. */
export const day = (iso: string) => date(new Date(iso), { day: "numeric", month: "long", year: "numeric" });

/** A day near by, with its hour where it has one: Tuesday 1 December, 08:00. */
export function moment(iso: string): string {
  const t = new Date(iso);
  const d = date(t, { weekday: "long", day: "numeric", month: "long" });
  if (t.getHours() === 0 && t.getMinutes() === 0) return d;
  return `${d}, ${t.toLocaleTimeString(words.language, { hour: "2-digit", minute: "2-digit" })}`;
}

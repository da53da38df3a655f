// What a job may wait for, in words.
import type { Row } from "../api/client";
import { moment } from "../shared/format";
import * as words from "./words";

export type Kind = Row["waits"][number]["kind"];

/** What a job may wait for, and when that usually ends. */
export const kinds: { kind: Kind; label: string; says: string; usual: () => string }[] = [
  { kind: "parts", label: words.parts, says: "parts", usual: () => at(1, 8) },
  { kind: "cold_start", label: words.aColdStart, says: words.waitsAColdStart, usual: () => at(1, 7) },
  {
    kind: "cure",
    label: words.sealantToCure,
    says: words.waitsSealantToCure,
    usual: () => at(1, new Date().getHours()),
  },
  { kind: "customer", label: words.theCustomerSAnswer, says: words.waitsTheCustomerSAnswer, usual: () => "" },
  { kind: "other", label: words.somethingElse, says: "", usual: () => "" },
];

/** So many days from now at an hour, as the field for a day and an hour wants it. */
function at(days: number, hour: number): string {
  const t = new Date();
  t.setDate(t.getDate() + days);
  t.setHours(hour, 0, 0, 0);
  return new Date(t.getTime() - t.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

/** A wait in a few words. */
export function waitWords(w: { kind: string; note: string; until?: string }): string {
  const says = kinds.find((k) => k.kind === w.kind)?.says;
  const what = says && w.note ? `${says} (${w.note})` : says || w.note;
  return w.until ? `${what}, ${moment(w.until)}` : what;
}

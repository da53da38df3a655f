// Readings of the technician's own choice: what a state has to read, and what is asked then.
import type { Circuit, Job, Suggestion } from "../api/client";
import type { JobCircuit } from "../job/job";
import * as words from "./words";

/** What the technician chose to read instead of what is advised: two points, a part, or a look. */
export interface OwnReading {
  measure?: string;
  observe?: string;
  from?: string;
  to?: string;
  through?: string;
}
export type Own = OwnReading | null;

type State = Circuit["states"][number];

/** What can be read in a state, the usual first. */
export function readsOf(st?: State): string[] {
  if (!st || st.supply === "mains") return [];
  if (st.reads) return st.reads;
  return st.supply === "none" ? ["resistance"] : ["voltage", "current"];
}

export const measureNames: Record<string, string> = {
  voltage: words.volts,
  current: words.amps,
  resistance: words.ohms,
  ac_voltage: words.acVolts,
  frequency: words.hertz,
  capacitance: words.microfarads,
};

/** The parts a clamp goes round, or that have ohms of their own: those that are there in a state. */
export function partsIn(c: Circuit, st: State | undefined, measure: string) {
  const there = (id: string) =>
    !st || ((!st.present?.length || st.present.includes(id)) && !st.absent?.includes(id));
  const none =
    measure === "current"
      ? ["charger", "control", "drive", "bearing"]
      : ["source", "charger", "control", "drive", "bearing"];
  return c.stations.filter((s) => s.from && s.to && !none.includes(s.kind) && there(s.id));
}

/** The looks of a state. */
export const looksIn = (c: JobCircuit, state: string) =>
  [...c.observations, ...(c.generic ?? [])].filter((o) => o.states.includes(state) && o.id !== "swap_helps");

/** Whether enough is chosen to enter a value. */
export const whole = (o: OwnReading) => !!o.observe || !!o.through || (!!o.from && !!o.to);

/** What is asked for: the technician's own choice, or the adviser's. */
export function askedOf(
  next: Suggestion[],
  circuit: JobCircuit,
  state: string,
  own: Own,
  at: number,
): Suggestion | undefined {
  if (!own) return next[at];
  const st = circuit.states.find((s) => s.id === state);
  const reads = readsOf(st);
  const usual =
    reads[0] === "ac_voltage" && own.from?.startsWith("bat_") ? "voltage" : (reads[0] ?? "voltage");
  return {
    measure: own.observe ? undefined : (own.measure ?? usual),
    observe: own.observe,
    state,
    from: own.from,
    to: own.through || own.observe ? undefined : (own.to ?? ""),
    through: own.through,
    minutes: 0,
    people: st?.people ?? 1,
    bits: 0,
    because: "",
  };
}

/**
 * What the advice rests on. While it stays the same, so does the card: a caution that was understood, a mark or a
 * note changes the job and not what is asked.
 */
export const basisOf = (j: Job) =>
  JSON.stringify([
    j.evidence.map((e) => [e.id, e.struck]),
    j.unreachable,
    j.intermittent,
    j.known,
    j.parameters,
    j.specifications,
    j.voltage,
    j.when,
    j.complaint,
    j.controller,
    j.repairs.length,
  ]);

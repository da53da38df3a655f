// One job: its query, its writes, and the words made of its circuit's labels.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useContext } from "react";
import {
  type JobChange,
  api,
  must,
  type Circuit,
  type Evidence,
  type Job,
  type NewEvidence,
  type Suggestion,
} from "../api/client";
import { canWait, readJob, write } from "../offline/sync";
import { lower } from "../shared/format";
import { newId } from "../shared/id";
import * as words from "./words";

/** A job's circuit with the observations that come with every circuit of its kind. */
export type JobCircuit = Circuit & { generic?: Circuit["observations"] };

export interface JobState {
  job: Job;
  circuit: JobCircuit;
  state: string;
  setState: (s: string) => void;
  /** Where the job is looked at as it stood earlier: after so many pieces of evidence. */
  then?: number;
  setThen: (n: number | undefined) => void;
  /** How many pieces of evidence there are now. */
  all: number;
}

export const JobContext = createContext<JobState | null>(null);

export function useJob(): JobState {
  const j = useContext(JobContext);
  if (!j) throw new Error("useJob outside a job");
  return j;
}

export function useJobQuery(id: string, state: string) {
  return useQuery({
    queryKey: ["job", id, state],
    queryFn: () => readJob(id, state),
    placeholderData: (prev: Job | undefined) => (prev?.id === id ? prev : undefined),
    // What to do next follows the picture. An answer that was lost on the way is asked for again, or the card would
    // weigh for ever.
    refetchInterval: (q) => (q.state.data?.thinking ? 3000 : false),
  });
}

/** Runs f once what is being drawn stands on the screen; a page that is not looked at is not drawn. */
function afterPaint(f: () => void) {
  let ran = false;
  const once = () => {
    if (!ran) f();
    ran = true;
  };
  requestAnimationFrame(() => setTimeout(once, 0));
  setTimeout(once, 120);
}

/**
 * The writes of a job. Each answers with the whole job as it now is; quick ones leave what to do next for a second
 * answer, so that picture and suspects come at once.
 */
export function useWrites(id: string, state: string, quick = false) {
  const client = useQueryClient();
  const done = async (j: Job, s: string) => {
    // What was asked before this was stored would come in after it, and stand there for it.
    await client.cancelQueries({ queryKey: ["job", id] });
    // Whoever looks at this state sees it at once, also where the state was not chosen but left to the adviser.
    client.setQueryData(["job", id, s], j);
    client.setQueriesData<Job>({ queryKey: ["job", id] }, (old) =>
      old?.picture?.state === j.picture?.state ? j : old,
    );
    // The picture first: what follows is asked for once it stands on the screen, since server and browser may
    // share a small machine.
    afterPaint(() => {
      void client.invalidateQueries({
        queryKey: ["job", id],
        predicate: (q) => j.thinking || q.queryKey[2] !== s,
      });
      void client.invalidateQueries({ queryKey: ["board"] });
    });
  };
  const enter = useMutation({
    mutationFn: (v: { evidence: NewEvidence[]; state?: string }) =>
      write(id, { evidence: v.evidence }, v.state ?? state, quick),
    onSuccess: (j, v) => done(j, v.state ?? state),
  });
  const strike = useMutation({
    mutationFn: (v: { evidence: string; out: boolean }) => write(id, { strike: v }, state, quick),
    onSuccess: (j) => done(j, state),
  });
  const change = useMutation({
    mutationFn: (body: JobChange) =>
      canWait(body)
        ? write(id, { patch: body }, state)
        : must(api.PATCH("/api/jobs/{id}", { params: { path: { id }, query: { state } }, body })),
    onSuccess: (j) => done(j, state),
  });
  const repair = useMutation({
    mutationFn: (v: { id: string; station?: string; decision?: string; what: string }) =>
      write(id, { work: v }, state),
    onSuccess: (j) => done(j, state),
  });
  const reword = useMutation({
    mutationFn: (v: { repair: string; what: string }) => write(id, { reword: v }, state),
    onSuccess: (j) => done(j, state),
  });
  return { enter, strike, change, repair, reword };
}

export const nodeLabel = (c: Circuit, id?: string) => c.nodes.find((n) => n.id === id)?.label ?? id ?? "";
export const stationOf = (c: Circuit, id?: string) => c.stations.find((s) => s.id === id);
export const stateOf = (c: Circuit, id?: string) => c.states.find((s) => s.id === id);
export const observationOf = (c: JobCircuit, id?: string) =>
  c.observations.find((o) => o.id === id) ?? c.generic?.find((o) => o.id === id);

/** What a piece of evidence was about, in a few words. */
export function subject(
  c: JobCircuit,
  e: Pick<Evidence, "measure" | "observe" | "from" | "to" | "through">,
): string {
  if (e.observe)
    return (
      (observationOf(c, e.observe)?.label ?? e.observe) +
      (e.through ? `, ${lower(stationOf(c, e.through)?.label ?? e.through)}` : "")
    );
  if (e.through) return words.throughThe(lower(stationOf(c, e.through)?.label ?? e.through));
  return words.to(nodeLabel(c, e.from), nodeLabel(c, e.to));
}

/** An answer to every look: it counts as none, and is not asked again. */
export const notSure = "not_sure";

export function answer(c: JobCircuit, e: Evidence): string {
  if (e.observe)
    return e.outcome === notSure
      ? words.notSure
      : (observationOf(c, e.observe)?.outcomes.find((o) => o.id === e.outcome)?.label ?? e.outcome ?? "");
  return e.shown ?? e.value ?? "";
}

/** The setting of the meter, said as one technician says it to another. */
export function instruction(c: Circuit, s: Pick<Suggestion, "measure" | "from" | "to" | "through">): string {
  const [from, to] = [nodeLabel(c, s.from), nodeLabel(c, s.to)];
  switch (s.measure) {
    case "current":
      return words.clampOnDcAmperes(lower(stationOf(c, s.through)?.label ?? ""));
    case "resistance":
      return s.through
        ? words.ohmsLeadsZeroedThe(lower(stationOf(c, s.through)?.label ?? ""))
        : words.ohmsLeadsZeroedOne(from, to);
    case "ac_voltage":
      return words.acVoltsOneLead(from, to);
    case "frequency":
      return words.hertzOneLeadOn(from, to);
    case "capacitance":
      return words.microfaradsCapacitorDischargedAnd(from, to);
    default:
      return words.dcVoltsRedOn(from, to);
  }
}

export const unitOf = (measure?: string) =>
  ({ current: "A", resistance: "Ω", capacitance: "µF", frequency: words.hz })[measure ?? ""] ?? "V";

/** The states a person can put the circuit in. */
export const statesOf = (c: Circuit) => c.states.filter((s) => !s.hidden);

/** The nodes a probe reaches. */
export const probesOf = (c: Circuit) => c.nodes.filter((n) => !n.hidden);

/** What a side path does to the main one, in words. */
export function tiesOf(c: Circuit): Record<string, string> {
  const out: Record<string, string> = {};
  for (const p of c.paths) {
    const contact = c.stations.find((s) => s.closed_by && p.stations.includes(s.closed_by));
    const brake = c.stations.find((s) => s.held_by && p.stations.includes(s.held_by));
    if (contact) out[p.id] = words.closesThe(lower(contact.label));
    else if (brake) out[p.id] = words.liftsTheBrake;
  }
  return out;
}

/** A question as it is asked, with the part that is swapped. */
export function question(c: JobCircuit, s: { observe?: string; through?: string }): string {
  if (s.observe === "swap_helps") return words.swapTheForThe(lower(stationOf(c, s.through)?.label ?? "part"));
  return observationOf(c, s.observe)?.question ?? s.observe ?? "";
}

export function evidence(e: Omit<NewEvidence, "id">): NewEvidence {
  return { ...e, id: newId(), taken_at: new Date().toISOString() };
}

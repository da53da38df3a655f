// One job: its query, its writes, and the words made of its circuit's labels.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useContext } from "react";
import {
  api,
  must,
  type Circuit,
  type Evidence,
  type Job,
  type NewEvidence,
  type Suggestion,
} from "../api/client";
import { lower } from "../shared/format";
import { newId } from "../shared/id";

export interface JobState {
  job: Job;
  circuit: Circuit;
  state: string;
  setState: (s: string) => void;
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
    queryFn: () => must(api.GET("/api/jobs/{id}", { params: { path: { id }, query: { state } } })),
    placeholderData: (prev: Job | undefined) => (prev?.id === id ? prev : undefined),
  });
}

export type JobPatch = NonNullable<Parameters<typeof api.PATCH<"/api/jobs/{id}", never>>[1]>["body"];

/** The writes of a job. Each answers with the whole job as it now is. */
export function useWrites(id: string, state: string) {
  const client = useQueryClient();
  const done = (j: Job, s: string) => {
    client.setQueryData(["job", id, s], j);
    void client.invalidateQueries({ queryKey: ["job", id], predicate: (q) => q.queryKey[2] !== s });
    void client.invalidateQueries({ queryKey: ["board"] });
  };
  const enter = useMutation({
    mutationFn: (v: { evidence: NewEvidence[]; state?: string }) =>
      must(
        api.POST("/api/jobs/{id}/evidence", {
          params: { path: { id }, query: { state: v.state ?? state } },
          body: { evidence: v.evidence },
        }),
      ),
    onSuccess: (j, v) => done(j, v.state ?? state),
  });
  const strike = useMutation({
    mutationFn: (v: { evidence: string; out: boolean }) =>
      must(
        api.POST("/api/jobs/{id}/evidence/{evidence}/strike", {
          params: { path: { id, evidence: v.evidence }, query: { state } },
          body: { out: v.out },
        }),
      ),
    onSuccess: (j) => done(j, state),
  });
  const change = useMutation({
    mutationFn: (body: Record<string, unknown>) =>
      must(api.PATCH("/api/jobs/{id}", { params: { path: { id }, query: { state } }, body: body as never })),
    onSuccess: (j) => done(j, state),
  });
  return { enter, strike, change };
}

export const nodeLabel = (c: Circuit, id?: string) => c.nodes.find((n) => n.id === id)?.label ?? id ?? "";
export const stationOf = (c: Circuit, id?: string) => c.stations.find((s) => s.id === id);
export const stateOf = (c: Circuit, id?: string) => c.states.find((s) => s.id === id);
export const observationOf = (c: Circuit, id?: string) => c.observations.find((o) => o.id === id);

/** What a piece of evidence was about, in a few words. */
export function subject(
  c: Circuit,
  e: Pick<Evidence, "measure" | "observe" | "from" | "to" | "through">,
): string {
  if (e.observe) return observationOf(c, e.observe)?.label ?? e.observe;
  if (e.through) return `through the ${lower(stationOf(c, e.through)?.label ?? e.through)}`;
  return `${nodeLabel(c, e.from)} to ${nodeLabel(c, e.to)}`;
}

export function answer(c: Circuit, e: Evidence): string {
  if (e.observe)
    return observationOf(c, e.observe)?.outcomes.find((o) => o.id === e.outcome)?.label ?? e.outcome ?? "";
  return e.shown ?? e.value ?? "";
}

/** The setting of the meter, said as one technician says it to another. */
export function instruction(c: Circuit, s: Pick<Suggestion, "measure" | "from" | "to" | "through">): string {
  switch (s.measure) {
    case "current":
      return `Clamp on DC amperes, zeroed, round the ${lower(stationOf(c, s.through)?.label ?? "")}.`;
    case "resistance":
      return `Ohms, leads zeroed. One lead on the ${nodeLabel(c, s.from)}, the other on the ${nodeLabel(c, s.to)}.`;
    default:
      return `DC volts. Red on the ${nodeLabel(c, s.from)}, black on the ${nodeLabel(c, s.to)}.`;
  }
}

export const unitOf = (measure?: string) =>
  measure === "current" ? "A" : measure === "resistance" ? "Ω" : "V";

export function evidence(e: Omit<NewEvidence, "id">): NewEvidence {
  return { ...e, id: newId(), taken_at: new Date().toISOString() };
}

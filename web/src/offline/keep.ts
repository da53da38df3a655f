// What the browser keeps: the jobs that were opened, and what was entered but has not reached the server yet.
import { clear, createStore, del, entries, get, set, update } from "idb-keyval";
import type { Job, Me, Move, Row, TraceIn, Write } from "../api/client";
import type { JobCircuit } from "../job/job";

const jobs = createStore("corriente-jobs", "jobs");
const misc = createStore("corriente-misc", "misc");
const reads = createStore("corriente-reads", "reads");

/** A job as it was last read, with all that the core needs to go on with it. */
export interface KeptJob {
  view: Job;
  circuit: JobCircuit;
  /** Its kit, as the server wrote it. */
  kit: string;
  at: number;
}

/**
 * One write on its way: its id makes it harmless to send twice. What the core knows how to put to a job stands in the
 * core's own form; a photo and the trainer's moves are for the server alone.
 */
export interface Waiting extends Write {
  id: string;
  job: string;
  user: string;
  photo?: { id: string; file: Blob };
  attempt?: {
    id: string;
    exercise?: string;
    circuit?: string;
    seed?: number;
    count?: number;
    sometimes?: boolean;
  };
  move?: { attempt: string; n: number; move: Move };
  drilled?: { kind: string; circuit: string; right: boolean };
  trace?: TraceIn;
  costs?: { repair: string; parts: number; minutes: number; price: number };
  refused?: string;
}

/** How many jobs are kept; the longest unread go first. */
const most = 12;

export const keptJob = (id: string) => get<KeptJob>(id, jobs);

export async function keepJob(j: KeptJob) {
  await set(j.view.id, j, jobs);
  const all = await entries<string, KeptJob>(jobs);
  const old = all.sort((a, b) => b[1].at - a[1].at).slice(most);
  await Promise.all(old.map(([id]) => del(id, jobs)));
}

export const keptMe = () => get<Me>("me", misc);
export const keepMe = (me: Me) => set("me", me, misc);
export const keptBoard = (all: boolean) => get<Row[]>(`board ${all}`, misc);
export const keepBoard = (all: boolean, rows: Row[]) => set(`board ${all}`, rows, misc);

/** What the server last said to a question, for when it cannot be asked. */
export const keepRead = (what: string, v: unknown) => set(what, v, reads);
export const keptRead = <T>(what: string) => get<T>(what, reads);

export async function forgetAll() {
  await Promise.all([clear(jobs), clear(reads)]);
  for (const k of ["me", "board true", "board false"]) await del(k, misc);
  if ("caches" in window) await caches.delete("photos");
}

const key = "outbox";
export const outbox = async () => (await get<Waiting[]>(key, misc)) ?? [];
export const intoOutbox = (w: Waiting) =>
  update<Waiting[]>(key, (l) => [...(l ?? []).filter((x) => x.id !== w.id), w], misc);
export const outOfOutbox = (id: string) =>
  update<Waiting[]>(key, (l) => (l ?? []).filter((x) => x.id !== id), misc);

// What the browser keeps: the jobs that were opened, and what was entered but has not reached the server yet.
import { createStore, del, entries, get, set, update } from "idb-keyval";
import type { JobChange, Job, Me, NewEvidence, Row } from "../api/client";
import type { JobCircuit } from "../job/job";

const jobs = createStore("corriente-jobs", "jobs");
const misc = createStore("corriente-misc", "misc");

/** A job as it was last read, with its case file for the core. */
export interface KeptJob {
  view: Job;
  circuit: JobCircuit;
  text: string;
  at: number;
}

/** One write on its way: its id makes it harmless to send twice. */
export interface Waiting {
  id: string;
  job: string;
  user: string;
  evidence?: NewEvidence[];
  strike?: { evidence: string; out: boolean };
  patch?: JobChange;
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

export async function forgetAll() {
  for (const [id] of await entries(jobs)) await del(id, jobs);
  for (const k of ["me", "board true", "board false"]) await del(k, misc);
}

const key = "outbox";
export const outbox = async () => (await get<Waiting[]>(key, misc)) ?? [];
export const intoOutbox = (w: Waiting) =>
  update<Waiting[]>(key, (l) => [...(l ?? []).filter((x) => x.id !== w.id), w], misc);
export const outOfOutbox = (id: string) =>
  update<Waiting[]>(key, (l) => (l ?? []).filter((x) => x.id !== id), misc);

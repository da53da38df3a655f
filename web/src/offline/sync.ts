// Writes that survive a lost connection. Everything entered is kept in the browser first, sent once the server is
// there, and forgotten when the server has it. Ids are made here, so a resend changes nothing. Until then the core
// answers from what is kept here, by the same rules as the server.
import { useSyncExternalStore } from "react";
import {
  api,
  must,
  Refused,
  type CalcView,
  type Compare,
  type Evidence,
  type Job,
  type JobChange,
  type JobTerms,
  type OptionsView,
  type PathView,
  type ProveView,
  type StripView,
} from "../api/client";
import { newId } from "../shared/id";
import { carry, type Carried, type Question } from "./core";
import {
  intoOutbox,
  keepJob,
  keepRead,
  keptJob,
  keptRead,
  outbox,
  outOfOutbox,
  type KeptJob,
  type Waiting,
} from "./keep";
import * as words from "./words";

export interface Link {
  /** No answer came to the last question. */
  lost: boolean;
  waiting: Waiting[];
}

let link: Link = { lost: false, waiting: [] };
const watchers = new Set<() => void>();
let onSent: (jobs: string[]) => void = () => {};
let onExpired: () => void = () => {};
let user = "";
let formerly = ""; // what waits from before was kept under the name

function tell(l: Partial<Link>) {
  link = { ...link, ...l };
  watchers.forEach((f) => f());
}

const see = (f: () => void) => {
  watchers.add(f);
  return () => watchers.delete(f);
};

export const useLink = () => useSyncExternalStore(see, () => link);

/** Whether the server cannot be reached just now: what needs it says so before it is touched. */
export const useLost = () => useSyncExternalStore(see, () => link.lost);

const isLost = (e: unknown) => e instanceof Refused && (e.status === 0 || e.status >= 502);

/** Asks the server; where it cannot be reached, says so to who watches the connection. */
export async function reach<T>(p: Promise<T>): Promise<T> {
  try {
    const v = await p;
    if (link.lost) tell({ lost: false });
    return v;
  } catch (e) {
    if (isLost(e)) tell({ lost: true });
    else if (link.lost) tell({ lost: false });
    throw e;
  }
}

/** A server that hangs is as good as none. */
const timely = () => AbortSignal.timeout(8000);

/** What concerns a job and waits to be sent, in the order in which it was entered. */
const waitingFor = (all: Waiting[], job: string) => all.filter((w) => w.job === job && !w.refused);

/** The answer of the server, or, without one and with entries waiting, what the core makes of what is kept here. */
async function read<T>(job: string, asked: () => Promise<T>, here: () => Promise<T>): Promise<T> {
  try {
    const v = await reach(asked());
    return waitingFor(link.waiting, job).length ? await here().catch(() => v) : v;
  } catch (e) {
    if (isLost(e) && (await keptJob(job))) return here();
    throw e;
  }
}

/** The answer of the server, kept for when it cannot be asked. */
export async function readKept<T>(what: string, asked: () => Promise<T>): Promise<T> {
  try {
    const v = await reach(asked());
    void keepRead(what, v).catch(() => {}); // a browser that keeps nothing still reads
    return v;
  } catch (e) {
    const kept = isLost(e) ? await keptRead<T>(what) : undefined;
    if (kept !== undefined) return kept;
    throw e;
  }
}

/** The job from the server, or, without one, from what is kept here and the core. */
export const readJob = (id: string, state: string): Promise<Job> =>
  read(
    id,
    () => must(api.GET("/api/jobs/{id}", { params: { path: { id }, query: { state } }, signal: timely() })),
    () => here(id, state),
  );

export const readStrip = (id: string): Promise<StripView> =>
  read(
    id,
    () => must(api.GET("/api/jobs/{id}/strip", { params: { path: { id } }, signal: timely() })),
    () => hereStrip(id),
  );

/** How far the job has come, and what is to be done next. */
export const readPath = (id: string): Promise<PathView> =>
  read(
    id,
    () => must(api.GET("/api/jobs/{id}/path", { params: { path: { id } }, signal: timely() })),
    async () => (await askHere(id, { path: true })).path!,
  );

export const readProof = (id: string): Promise<ProveView> =>
  read(
    id,
    () => must(api.GET("/api/jobs/{id}/proof", { params: { path: { id } }, signal: timely() })),
    () => hereProof(id),
  );

export const readTerms = (id: string): Promise<JobTerms> =>
  read(
    id,
    () => must(api.GET("/api/jobs/{id}/terms", { params: { path: { id } }, signal: timely() })),
    () => hereTerms(id),
  );

/** What can be done, reckoned by the server or here. */
export const compare = (id: string, body: Compare): Promise<OptionsView> =>
  read(
    id,
    () => must(api.POST("/api/jobs/{id}/compare", { params: { path: { id } }, body })),
    async () => (await askHere(id, { compare: body })).options!,
  );

/** A calculator's answer, reckoned by the server or here. */
export const calculate = (
  job: string,
  calculator: string,
  inputs: Record<string, string>,
  part = "",
): Promise<CalcView> =>
  read(
    job,
    () =>
      must(
        api.POST("/api/calculators/{calculator}", {
          params: { path: { calculator } },
          body: { inputs, job, part },
        }),
      ),
    async () => (await askHere(job, { calc: { calculator, inputs, part } })).calc!,
  );

/** Keeps a job for later: its view, its circuit, and its kit for the core. */
export async function keep(view: Job, circuit: KeptJob["circuit"]) {
  const r = await fetch(`/api/jobs/${view.id}/kit`, { signal: timely() });
  if (!r.ok) return null;
  const kit = await r.text();
  await keepJob({ view, circuit, kit, at: Date.now() });
  return kit;
}

/** Reads a job's kit anew after what changes no revision of the job. */
async function renew(id: string) {
  const k = await keptJob(id);
  if (k) await keep(k.view, k.circuit).catch(() => {}); // the next time it is opened then
}

async function kept(id: string): Promise<KeptJob> {
  const k = await keptJob(id);
  if (!k?.kit) throw new Refused(0, words.thisJobWasNot);
  return k;
}

/** Asks the core about a job as it stands here: what the server last said, and what waits to be sent. */
async function askHere(id: string, q: Question): Promise<Carried> {
  const k = await kept(id);
  try {
    return await carry(
      k.kit,
      // The core has no use for pictures and curves.
      waitingFor(await outbox(), id).map((w) => ({ ...w, photo: undefined, trace: undefined })),
      q,
    );
  } catch (e) {
    throw e instanceof Refused ? e : new Refused(422, sentence((e as Error).message));
  }
}

const sentence = (s: string) => s.charAt(0).toUpperCase() + s.slice(1) + (/[.!?]$/.test(s) ? "" : ".");

/** The job as it stands here. */
export async function here(id: string, state: string, glance = false): Promise<Job> {
  const k = await kept(id);
  const { screen } = await askHere(id, { screen: { state, glance } });
  const { shown, evidence, ...rest } = screen!;
  const mine = waitingFor(await outbox(), id);
  const by = new Map(k.view.evidence.map((e) => [e.id, e.by]));
  return {
    ...k.view,
    ...rest,
    closed_at: rest.closed_at,
    cautions_read: k.view.cautions_read || mine.some((w) => w.patch?.cautions_read),
    revision: k.view.revision + mine.length,
    evidence: evidence.map((e, i): Evidence => ({ ...e, shown: shown[i] || undefined, by: by.get(e.id) })),
  };
}

export const hereStrip = async (id: string) => (await askHere(id, { strip: true })).strip!;
export const hereProof = async (id: string) => (await askHere(id, { proof: true })).proof!;
const hereTerms = async (id: string): Promise<JobTerms> =>
  waitingFor(await outbox(), id).findLast((w) => w.terms)?.terms ??
  (JSON.parse((await kept(id)).kit) as { terms: JobTerms }).terms;

/** The photo that waits to be sent under an id, if one does. */
export const waitingPhoto = (id: string): Blob | undefined =>
  link.waiting.find((w) => w.photo?.id === id)?.photo?.file;

/** Sends a photo, or keeps it here until the connection is back. On tells the share that arrived. */
export async function sendPhoto(job: string, id: string, file: Blob, on?: (share: number) => void) {
  if (!link.lost && waitingFor(link.waiting, job).length === 0) {
    try {
      const { upload } = await import("../shared/photo");
      return await reach(upload(id, file, on));
    } catch (e) {
      if (!isLost(e)) throw e;
    }
  }
  await post(job, { photo: { id, file } }, () => Promise.resolve());
}

/** What one write says: what is sent, without who and when. */
export type What = Omit<Waiting, "id" | "job" | "user" | "at" | "by" | "refused">;

/**
 * Sends one write; the server's answer is of the kind that the write belongs to. What goes out later than it was entered
 * says when that was: a reading taken after the work stays after it.
 */
async function send(w: Waiting, state: string, quick = false, late = false): Promise<unknown> {
  const path = { id: w.job };
  const at = late ? w.at : undefined;
  const signal = timely();
  if (w.photo) return (await import("../shared/photo")).upload(w.photo.id, w.photo.file);
  if (w.evidence)
    return must(
      api.POST("/api/jobs/{id}/evidence", {
        params: { path, query: { state, quick } },
        body: { evidence: w.evidence },
        signal,
      }),
    );
  if (w.patch)
    return must(api.PATCH("/api/jobs/{id}", { params: { path, query: { state } }, body: w.patch, signal }));
  if (w.strike)
    return must(
      api.POST("/api/jobs/{id}/evidence/{evidence}/strike", {
        params: { path: { ...path, evidence: w.strike.evidence }, query: { state, quick } },
        body: { out: w.strike.out },
        signal,
      }),
    );
  if (w.choice)
    return must(
      api.POST("/api/jobs/{id}/decisions", {
        params: { path, query: { state } },
        body: { ...w.choice, at },
        signal,
      }),
    );
  if (w.work)
    return must(
      api.POST("/api/jobs/{id}/repairs", {
        params: { path, query: { state } },
        body: { ...w.work, at },
        signal,
      }),
    );
  if (w.reword)
    return must(
      api.PUT("/api/jobs/{id}/repairs/{repair}", {
        params: { path: { ...path, repair: w.reword.repair }, query: { state } },
        body: { what: w.reword.what },
        signal,
      }),
    );
  if (w.line)
    return must(api.POST("/api/jobs/{id}/strip", { params: { path }, body: { ...w.line, at }, signal }));
  if (w.change) {
    const { item, ...body } = w.change;
    return must(
      api.PATCH("/api/jobs/{id}/strip/{item}", {
        params: { path: { ...path, item } },
        body: { ...body, at },
        signal,
      }),
    );
  }
  if (w.note) return must(api.POST("/api/jobs/{id}/notes", { params: { path }, body: w.note, signal }));
  if (w.drop_note)
    return must(
      api.DELETE("/api/jobs/{id}/notes/{note}", {
        params: { path: { ...path, note: w.drop_note } },
        signal,
      }),
    );
  if (w.tick)
    return must(
      api.PUT("/api/jobs/{id}/proof/ticks/{tick}", {
        params: { path: { ...path, tick: w.tick.tick } },
        body: { value: w.tick.value },
        signal,
      }),
    );
  if (w.sign)
    return must(api.POST("/api/jobs/{id}/proof", { params: { path }, body: { ...w.sign, at }, signal }));
  if (w.terms) return must(api.PUT("/api/jobs/{id}/terms", { params: { path }, body: w.terms, signal }));
  if (w.trace) return must(api.PUT("/api/jobs/{id}/traces", { params: { path }, body: w.trace, signal }));
  if (w.costs) {
    const { repair, ...body } = w.costs;
    return must(
      api.PUT("/api/jobs/{id}/costs/{repair}", { params: { path: { ...path, repair } }, body, signal }),
    );
  }
  return sendTraining(w, signal);
}

/** Sends what belongs to the trainer. */
async function sendTraining(w: Waiting, signal: AbortSignal): Promise<unknown> {
  if (w.attempt) return must(api.POST("/api/training/attempts", { body: w.attempt, signal }));
  if (w.move)
    return must(
      api.PUT("/api/training/attempts/{id}/moves/{n}", {
        params: { path: { id: w.move.attempt, n: w.move.n } },
        body: w.move.move,
        signal,
      }),
    );
  if (w.drilled) return must(api.POST("/api/training/drill", { body: { id: w.id, ...w.drilled }, signal }));
  return undefined;
}

/** What may be changed about a job without a connection: what says the same however often it is sent. */
const patient = [
  "acknowledge",
  "cautions_read",
  "intermittent",
  "cannot_reach",
  "can_reach",
  "complaint",
  "history",
  "when",
];
export const canWait = (patch: JobChange) => Object.keys(patch).every((k) => patient.includes(k));

/**
 * A write: kept, sent, and answered by the server, or by what is made of it here. What the core refuses here is told at
 * once, and does not wait.
 */
export async function post<T>(
  job: string,
  what: What,
  answer: () => Promise<T>,
  options: { state?: string; quick?: boolean } = {},
): Promise<T> {
  const w: Waiting = { id: newId(), job, user, at: new Date().toISOString(), by: whose, ...what };
  const keeping = intoOutbox(w);
  const wait = async () => {
    await keeping;
    if (job) {
      const no = (await askHere(job, {})).refused[w.id];
      if (no) {
        await outOfOutbox(w.id);
        tell({ waiting: await outbox() });
        throw new Refused(422, sentence(no));
      }
    }
    tell({ waiting: await outbox() });
    try {
      return await answer();
    } catch (e) {
      if (job) throw e; // it waits; only what is shown of it failed
      await outOfOutbox(w.id);
      tell({ waiting: await outbox() });
      throw e;
    }
  };
  const goesOn = async () => job === "" || !!(await keptJob(job))?.kit;
  if (waitingFor(link.waiting, job).length > 0 || (link.lost && (await goesOn()))) {
    // What was entered before goes first, and nobody waits for a server that is known to be away.
    const v = await wait();
    void flush();
    return v;
  }
  try {
    const v = await reach(send(w, options.state ?? "", options.quick));
    // Nothing waits for this: sent twice, it changes nothing.
    void keeping.then(() => outOfOutbox(w.id));
    if (w.tick ?? w.note ?? w.drop_note ?? w.terms) void renew(job);
    return v as T;
  } catch (e) {
    await keeping;
    const expired = e instanceof Refused && e.status === 401;
    if ((isLost(e) || expired) && (await goesOn())) {
      if (expired) onExpired();
      return wait();
    }
    // Refused: the person who typed it reads why, and still has it before them.
    await outOfOutbox(w.id);
    tell({ waiting: await outbox() });
    throw e;
  }
}

/** A write answered with the job as it then is. */
export const write = (job: string, what: What, state: string, quick = false): Promise<Job> =>
  post(job, what, () => here(job, state, quick), { state, quick });

const mine = (w: Waiting) => w.user === user || w.user === formerly;

let whose = ""; // the name that goes with what is entered

let flushing = false;

/** Sends what waits, in the order it was entered. */
export async function flush() {
  if (flushing) return;
  flushing = true;
  const sent = new Set<string>();
  try {
    for (const w of await outbox()) {
      if (w.refused || !mine(w)) continue;
      try {
        await reach(send(w, "", false, true));
        await outOfOutbox(w.id);
        sent.add(w.job);
      } catch (e) {
        if (!(e instanceof Refused) || isLost(e) || e.status === 401 || e.status === 429 || e.status >= 500)
          break;
        await intoOutbox({ ...w, refused: e.message });
        sent.add(w.job);
      }
    }
  } finally {
    flushing = false;
    tell({ waiting: await outbox() });
    if (sent.size) onSent([...sent]);
  }
}

export async function drop(id: string) {
  await outOfOutbox(id);
  tell({ waiting: await outbox() });
}

/** Watches for the connection's return. Returns what ends the watching. */
export function watch(
  who: { id: string; name: string },
  sent: (jobs: string[]) => void,
  expired: () => void,
): () => void {
  user = who.id;
  whose = formerly = who.name;
  onSent = sent;
  onExpired = expired;
  void flush();
  const back = () => void flush();
  const gone = () => tell({ lost: true });
  window.addEventListener("online", back);
  window.addEventListener("offline", gone);
  const t = setInterval(() => {
    if (link.waiting.some((w) => !w.refused && mine(w))) void flush();
    else if (link.lost)
      void reach(must(api.GET("/api/session", { signal: timely() }))).then(
        () => sent([]),
        () => {},
      );
  }, 3000);
  return () => {
    clearInterval(t);
    window.removeEventListener("online", back);
    window.removeEventListener("offline", gone);
  };
}

// Writes that survive a lost connection. Everything entered is kept in the browser first, sent once the server is
// there, and forgotten when the server has it. Ids are made here, so a resend changes nothing.
import { useSyncExternalStore } from "react";
import { type JobChange, api, must, Refused, type Evidence, type Job, type NewEvidence } from "../api/client";
import { newId } from "../shared/id";
import { weigh } from "./core";
import { intoOutbox, keepJob, keptJob, outbox, outOfOutbox, type Waiting } from "./keep";

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

export const useLink = () =>
  useSyncExternalStore(
    (f) => {
      watchers.add(f);
      return () => watchers.delete(f);
    },
    () => link,
  );

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

/** The job from the server, or, without one, from what is kept here and the core. */
export async function readJob(id: string, state: string): Promise<Job> {
  try {
    const view = await reach(
      must(api.GET("/api/jobs/{id}", { params: { path: { id }, query: { state } }, signal: timely() })),
    );
    const mine = link.waiting.filter((w) => w.job === id && !w.refused);
    return mine.length ? await here(id, state).catch(() => view) : view;
  } catch (e) {
    if (isLost(e) && (await keptJob(id))) return here(id, state);
    throw e;
  }
}

/** A server that hangs is as good as none. */
const timely = () => AbortSignal.timeout(8000);

/** Keeps a job for later: its view, its circuit, and its case for the core. */
export async function keep(view: Job, circuit: Parameters<typeof keepJob>[0]["circuit"]) {
  const r = await fetch(`/api/jobs/${view.id}/case`, { signal: timely() });
  if (!r.ok) return null;
  const text = await r.text();
  await keepJob({ view, circuit, text, at: Date.now() });
  return text;
}

/** The job as it stands here: what the server last said, and what waits to be sent. */
export async function here(id: string, state: string, glance = false): Promise<Job> {
  const kept = await keptJob(id);
  if (!kept)
    throw new Refused(0, "This job was not opened here before: it can be read once the connection is back.");
  const mine = (await outbox()).filter((w) => w.job === id && !w.refused);
  const file = JSON.parse(kept.text) as {
    evidence: (NewEvidence & { struck?: boolean })[];
    known?: object;
  };
  for (const w of mine) {
    for (const e of w.evidence ?? []) if (!file.evidence.some((x) => x.id === e.id)) file.evidence.push(e);
    for (const e of file.evidence) if (w.strike && e.id === w.strike.evidence) e.struck = w.strike.out;
  }
  for (const e of file.evidence) if (!e.struck) delete e.struck;
  const view = { ...kept.view };
  for (const w of mine) {
    if (!w.patch) continue;
    const { acknowledge, cannot_reach, ...rest } = w.patch;
    if (acknowledge) view.acknowledged = [...view.acknowledged, acknowledge];
    if (cannot_reach) view.unreachable = [...new Set([...view.unreachable, cannot_reach])];
    Object.assign(view, rest);
  }
  if (view.unreachable.length) file.known = { ...file.known, unreachable: view.unreachable };
  const s = await weigh(JSON.stringify(file), state, glance);
  const by = new Map(kept.view.evidence.map((e) => [e.id, e.by]));
  const { shown, ...screen } = s;
  return {
    ...view,
    ...screen,
    revision: kept.view.revision + mine.length,
    evidence: file.evidence.map((e, i): Evidence => ({
      ...e,
      shown: shown[i] || undefined,
      by: by.get(e.id),
    })),
  };
}

async function send(w: Waiting, state: string, quick = false): Promise<Job> {
  const path = { id: w.job };
  if (w.evidence)
    return must(
      api.POST("/api/jobs/{id}/evidence", {
        params: { path, query: { state, quick } },
        body: { evidence: w.evidence },
        signal: timely(),
      }),
    );
  if (w.patch)
    return must(
      api.PATCH("/api/jobs/{id}", {
        params: { path, query: { state } },
        body: w.patch,
        signal: timely(),
      }),
    );
  return must(
    api.POST("/api/jobs/{id}/evidence/{evidence}/strike", {
      params: { path: { ...path, evidence: w.strike!.evidence }, query: { state, quick } },
      body: { out: w.strike!.out },
      signal: timely(),
    }),
  );
}

/** What may be changed about a job without a connection: what says the same however often it is sent. */
const patient = ["acknowledge", "cannot_reach", "complaint", "history", "when"];
export const canWait = (patch: JobChange) => Object.keys(patch).every((k) => patient.includes(k));

/** A write: kept, sent, and answered with the job as it then is, by the server or by the core here. */
export async function write(
  job: string,
  what: Pick<Waiting, "evidence" | "strike" | "patch">,
  state: string,
  quick = false,
): Promise<Job> {
  const w: Waiting = { id: newId(), job, user, ...what };
  const kept = intoOutbox(w);
  if (link.waiting.some((x) => x.job === job && !x.refused)) {
    // What was entered before goes first.
    await kept;
    tell({ waiting: await outbox() });
    void flush();
    return here(job, state, quick);
  }
  try {
    const view = await reach(send(w, state, quick));
    // Nothing waits for this: sent twice, it changes nothing.
    void kept.then(() => outOfOutbox(w.id));
    return view;
  } catch (e) {
    await kept;
    const expired = e instanceof Refused && e.status === 401;
    if ((isLost(e) || expired) && (await keptJob(job))) {
      if (expired) onExpired();
      tell({ waiting: await outbox() });
      return here(job, state, quick);
    }
    // Refused: the person who typed it reads why, and still has it before them.
    await outOfOutbox(w.id);
    tell({ waiting: await outbox() });
    throw e;
  }
}

const mine = (w: Waiting) => w.user === user || w.user === formerly;

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
        await reach(send(w, ""));
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
  formerly = who.name;
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

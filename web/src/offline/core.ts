// The page's side of the worker that holds the core.
import type {
  CalcView,
  Compare,
  Job,
  NewEvidence,
  OptionsView,
  Preview,
  PathView,
  ProveView,
  StripView,
} from "../api/client";
import { inOurWriting } from "../shared/written";
import wasmUrl from "./core.wasm?url";
import type { Ask, Told } from "./worker";

/** What is asked of a job that is kept here: exactly one of these. */
export interface Question {
  screen?: { state: string; glance: boolean };
  strip?: true;
  proof?: true;
  path?: true;
  compare?: Compare;
  calc?: { calculator: string; inputs: Record<string, string>; part: string };
}

/** The core's answer, and which of the writes it would not take, with the reason. */
export interface Carried {
  screen?: Pick<Job, "diagnosis" | "suspects" | "picture" | "looks" | "stage" | "thinking"> &
    Pick<
      Job,
      | "complaint"
      | "when"
      | "history"
      | "acknowledged"
      | "intermittent"
      | "unreachable"
      | "repairs"
      | "work"
      | "proved"
    > & {
      shown: string[];
      evidence: NewEvidence[];
      closed_at?: string;
    };
  strip?: StripView;
  proof?: ProveView;
  path?: PathView;
  options?: OptionsView;
  calc?: CalcView;
  refused: Record<string, string>;
}

let worker: Worker | null = null;
let count = 0;
const waiting = new Map<number, { ok: (v: unknown) => void; no: (e: Error) => void }>();

function ask<T>(a: Omit<Ask, "id">): Promise<T> {
  if (!worker) {
    worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
    worker.onmessage = (ev: MessageEvent<Told>) => {
      const w = waiting.get(ev.data.id);
      waiting.delete(ev.data.id);
      if (ev.data.error !== undefined) w?.no(new Error(ev.data.error));
      else w?.ok(inOurWriting(ev.data.ok));
    };
    worker.onerror = () => {
      for (const w of waiting.values()) w.no(new Error("the core could not be started here"));
      waiting.clear();
      worker?.terminate();
      worker = null;
    };
  }
  const id = ++count;
  return new Promise<T>((ok, no) => {
    waiting.set(id, { ok: ok as (v: unknown) => void, no });
    worker!.postMessage({ id, ...a } satisfies Ask);
  });
}

/** Fetches the core into the browser's cache and prepares it for a job, so that it is there when the connection is not. */
export async function warm(kit: string, state: string) {
  if ("caches" in window) {
    const c = await caches.open("core");
    if (!(await c.match(wasmUrl))) {
      for (const old of await c.keys()) await c.delete(old);
      await c.add(wasmUrl);
    }
  }
  await carry(kit, [], { screen: { state, glance: false } });
}

/** Asks about a job that is kept here, with what waits to be sent put to it in its order. */
export const carry = (kit: string, writes: object[], q: Question) =>
  ask<Carried>({ carry: { kit, writes: JSON.stringify(writes), ask: JSON.stringify(q) } });
/** Asks the trainer that is in the core. */
export const train = <T>(kit: object) => ask<T>({ train: JSON.stringify(kit) });
export const preview = (reading: object) => ask<Preview>({ preview: JSON.stringify(reading) });

// The page's side of the worker that holds the core.
import type { Job, Preview } from "../api/client";
import wasmUrl from "./core.wasm?url";
import type { Ask, Told } from "./worker";

/** What the core computes of a job, as the server's answer has it. */
export type Screen = Pick<Job, "diagnosis" | "suspects" | "picture" | "looks" | "stage" | "thinking"> & {
  shown: string[];
};

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
      else w?.ok(ev.data.ok);
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

/** Fetches the core into the browser's cache and prepares it for a case, so that it is there when the connection is not. */
export async function warm(text: string, state: string) {
  if ("caches" in window) {
    const c = await caches.open("core");
    if (!(await c.match(wasmUrl))) {
      for (const old of await c.keys()) await c.delete(old);
      await c.add(wasmUrl);
    }
  }
  await weigh(text, state, false);
}

/** A glance leaves what to do next for later. */
export const weigh = (text: string, state: string, glance: boolean) =>
  ask<Screen>({ weigh: { text, state, glance } });
export const preview = (reading: object) => ask<Preview>({ preview: JSON.stringify(reading) });

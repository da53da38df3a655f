// The page's side of the trace worker.
import type { TraceAsk, TraceTold } from "./worker";
import type { components } from "../api/schema";

export type TraceView = components["schemas"]["TraceView"];
export type Point = TraceView["points"][number];

export interface Opened {
  result: TraceView["result"];
  channels: string[];
  units: string[];
}
export interface Zoom {
  points: Point[];
  revolutions: number[];
  weak: number[];
  hump_s: number;
}
export interface Compared {
  mean_percent: number;
  ripple_points: number;
  speed_percent: number | null;
  shift: number | null;
  bars_percent: number[];
  worst_hump: number | null;
  says: string;
}
export interface Options {
  channel: string;
  scale: string;
  bars: number;
  brushes: number;
}

/** A worker with its traces. Stopping it ends whatever it does. */
export class Engine {
  private worker: Worker | null = null;
  private count = 0;
  private waiting = new Map<
    number,
    { ok: (v: unknown) => void; no: (e: Error) => void; on?: (share: number) => void }
  >();

  private ask<T>(a: Omit<TraceAsk, "id">, on?: (share: number) => void): Promise<T> {
    if (!this.worker) {
      this.worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
      this.worker.onmessage = (ev: MessageEvent<TraceTold>) => {
        const w = this.waiting.get(ev.data.id);
        if (ev.data.share !== undefined) {
          w?.on?.(ev.data.share);
          return;
        }
        this.waiting.delete(ev.data.id);
        if (ev.data.error !== undefined) w?.no(new Error(ev.data.error));
        else w?.ok(ev.data.ok);
      };
      this.worker.onerror = () => this.stop("This browser cannot run the analysis: update it.");
    }
    const id = ++this.count;
    return new Promise<T>((ok, no) => {
      this.waiting.set(id, { ok: ok as (v: unknown) => void, no, on });
      this.worker!.postMessage({ id, ...a } satisfies TraceAsk);
    });
  }

  stop(why = "stopped") {
    this.worker?.terminate();
    this.worker = null;
    for (const w of this.waiting.values()) w.no(new Error(why));
    this.waiting.clear();
  }

  open(slot: string, file: Blob, o: Options, on: (share: number) => void) {
    return this.ask<Opened>({ open: { slot, file, options: JSON.stringify(o) } }, on);
  }
  capture(slot: string, bytes: ArrayBuffer, interval: number, o: Options) {
    return this.ask<Opened>({ capture: { slot, bytes, interval, options: JSON.stringify(o) } });
  }
  zoom(slot: string, from: number, to: number, columns: number) {
    return this.ask<Zoom>({ zoom: { slot, from, to, columns } });
  }
  compare(slot: string, other: string) {
    return this.ask<Compared>({ compare: { slot, other } });
  }
}

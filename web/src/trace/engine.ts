// The page's side of the trace worker.
import type { TraceAsk, TraceTold } from "./worker";
import * as words from "./words";
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

/** From this size on, bytes, the server reads a file if it can be reached. */
const large = 8 << 20;

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
      this.worker.onerror = () => this.stop(words.thisBrowserCannotRun);
    }
    const id = ++this.count;
    return new Promise<T>((ok, no) => {
      this.waiting.set(id, { ok: ok as (v: unknown) => void, no, on });
      this.worker!.postMessage({ id, ...a } satisfies TraceAsk);
    });
  }

  stop(why = "stopped") {
    this.sending?.abort();
    this.worker?.terminate();
    this.worker = null;
    for (const w of this.waiting.values()) w.no(new Error(why));
    this.waiting.clear();
  }

  /** Traces that the server holds, by slot. */
  private held = new Map<string, string>();
  private sending: XMLHttpRequest | null = null;

  async open(slot: string, file: Blob, o: Options, on: (share: number) => void): Promise<Opened> {
    this.held.delete(slot);
    // Two that are compared must be read in one place.
    if (slot === "one" ? file.size > large : this.held.has("one")) {
      const there = await this.send(file, o, on);
      if (there) {
        this.held.set(slot, there.id);
        return there;
      }
    }
    return this.ask<Opened>({ open: { slot, file, options: JSON.stringify(o) } }, on);
  }

  /** Lets the server read a large file, which it does some times as fast. null where it cannot be reached. */
  private send(file: Blob, o: Options, on: (share: number) => void) {
    return new Promise<(Opened & { id: string }) | null>((ok, no) => {
      const x = new XMLHttpRequest();
      this.sending = x;
      const q = new URLSearchParams({
        channel: o.channel,
        scale: o.scale,
        bars: String(o.bars),
        brushes: String(o.brushes),
      });
      x.open("POST", `/api/traces?${q}`);
      x.upload.onprogress = (e) => on(e.loaded / file.size);
      x.onload = () => {
        try {
          const v = JSON.parse(x.responseText) as Opened & { id: string; detail?: string };
          if (x.status === 200) ok(v);
          else if (x.status === 422) no(new Error(v.detail));
          else ok(null);
        } catch {
          ok(null);
        }
      };
      x.onerror = () => ok(null);
      x.onabort = () => no(new Error("stopped"));
      x.send(file);
    });
  }

  private async there<T>(path: string): Promise<T> {
    const r = await fetch(`/api/traces/${path}`);
    const v = (await r.json()) as T & { detail?: string };
    if (!r.ok) throw new Error(v.detail);
    return v;
  }
  async capture(slot: string, bytes: ArrayBuffer, interval: number, o: Options) {
    this.held.delete(slot);
    return this.ask<Opened>({ capture: { slot, bytes, interval, options: JSON.stringify(o) } });
  }
  zoom(slot: string, from: number, to: number, columns: number) {
    const id = this.held.get(slot);
    if (id) return this.there<Zoom>(`${id}/zoom?from=${from}&to=${to}&columns=${columns}`);
    return this.ask<Zoom>({ zoom: { slot, from, to, columns } });
  }
  /** The other trace, cut to the time of the first and brought into step with it. */
  alongside(shift: number, from: number, to: number, columns: number) {
    const [a, b] = [this.held.get("one"), this.held.get("other")];
    if (a && b)
      return this.there<Point[]>(
        `${b}/zoom?from=${from}&to=${to}&columns=${columns}&under=${a}&shift=${shift}`,
      );
    return this.ask<Point[]>({ alongside: { slot: "one", other: "other", shift, from, to, columns } });
  }
  async compare(slot: string, other: string) {
    const [a, b] = [this.held.get(slot), this.held.get(other)];
    if (a && b) return this.there<Compared>(`${a}/compare?other=${b}`);
    if (a || b) throw new Error(words.openBothTracesAgain);
    return this.ask<Compared>({ compare: { slot, other } });
  }
}

// Traces in a worker of their own: reading ten million samples must not hold up the page, and can be stopped.
import "../offline/wasm_exec.js";
import wasmUrl from "../offline/core.wasm?url";

interface GoRuntime {
  importObject: WebAssembly.Imports;
  run(i: WebAssembly.Instance): Promise<void>;
}
declare const self: DedicatedWorkerGlobalScope & {
  Go: new () => GoRuntime;
  corrienteTrace: (
    slot: string,
    pull: (at: number, n: number) => Uint8Array,
    size: number,
    o: string,
  ) => string;
  corrienteCapture: (slot: string, bytes: Uint8Array, interval: number, o: string) => string;
  corrienteZoom: (slot: string, from: number, to: number, columns: number) => string;
  corrienteAlongside: (
    slot: string,
    other: string,
    shift: number,
    from: number,
    to: number,
    columns: number,
  ) => string;
  corrienteCompare: (slot: string, other: string) => string;
};

export interface TraceAsk {
  id: number;
  open?: { slot: string; file: Blob; options: string };
  capture?: { slot: string; bytes: ArrayBuffer; interval: number; options: string };
  zoom?: { slot: string; from: number; to: number; columns: number };
  alongside?: { slot: string; other: string; shift: number; from: number; to: number; columns: number };
  compare?: { slot: string; other: string };
}
export interface TraceTold {
  id: number;
  ok?: unknown;
  error?: string;
  share?: number;
}

const started = (async () => {
  const go = new self.Go();
  const bytes = await (await fetch(wasmUrl)).arrayBuffer();
  const { instance } = await WebAssembly.instantiate(bytes, go.importObject);
  void go.run(instance);
})();

self.onmessage = (ev: MessageEvent<TraceAsk>) => {
  const { id, open, capture, zoom, alongside: by, compare } = ev.data;
  started
    .then(() => {
      let text = "{}";
      if (open) {
        const reader = new FileReaderSync();
        let said = 0;
        const pull = (at: number, n: number) => {
          const share = at / open.file.size;
          if (share - said > 0.02) self.postMessage({ id, share: (said = share) } satisfies TraceTold);
          return new Uint8Array(reader.readAsArrayBuffer(open.file.slice(at, at + n)));
        };
        text = self.corrienteTrace(open.slot, pull, open.file.size, open.options);
      } else if (capture)
        text = self.corrienteCapture(
          capture.slot,
          new Uint8Array(capture.bytes),
          capture.interval,
          capture.options,
        );
      else if (zoom) text = self.corrienteZoom(zoom.slot, zoom.from, zoom.to, zoom.columns);
      else if (by) text = self.corrienteAlongside(by.slot, by.other, by.shift, by.from, by.to, by.columns);
      else if (compare) text = self.corrienteCompare(compare.slot, compare.other);
      self.postMessage({ id, ...(JSON.parse(text) as object) } satisfies TraceTold);
    })
    .catch((e: unknown) => self.postMessage({ id, error: String(e) } satisfies TraceTold));
};

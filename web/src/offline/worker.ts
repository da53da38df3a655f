// The core in a worker: the same reasoning as the server's, for when there is no server to ask.
import "./wasm_exec.js";
import wasmUrl from "./core.wasm?url";

interface GoRuntime {
  importObject: WebAssembly.Imports;
  run(i: WebAssembly.Instance): Promise<void>;
}
declare const self: DedicatedWorkerGlobalScope & {
  Go: new () => GoRuntime;
  corrienteWeigh?: (caseText: string, state: string, glance: boolean) => string;
  corrientePreview?: (reading: string) => string;
};

export interface Ask {
  id: number;
  weigh?: { text: string; state: string; glance: boolean };
  preview?: string;
}
export interface Told {
  id: number;
  ok?: unknown;
  error?: string;
}

const started = (async () => {
  const go = new self.Go();
  const bytes = await (await fetch(wasmUrl)).arrayBuffer();
  const { instance } = await WebAssembly.instantiate(bytes, go.importObject);
  void go.run(instance);
})();

self.onmessage = (ev: MessageEvent<Ask>) => {
  const { id, weigh, preview } = ev.data;
  started
    .then(() => {
      const text = weigh
        ? self.corrienteWeigh!(weigh.text, weigh.state, weigh.glance)
        : preview !== undefined
          ? self.corrientePreview!(preview)
          : '{"ok":true}';
      self.postMessage({ id, ...(JSON.parse(text) as object) } satisfies Told);
    })
    .catch((e: unknown) => self.postMessage({ id, error: String(e) } satisfies Told));
};

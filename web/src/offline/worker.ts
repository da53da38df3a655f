// The core in a worker: the same reasoning as the server's, for when there is no server to ask.
import "./wasm_exec.js";
import wasmUrl from "./core.wasm?url";

interface GoRuntime {
  importObject: WebAssembly.Imports;
  run(i: WebAssembly.Instance): Promise<void>;
}
declare const self: DedicatedWorkerGlobalScope & {
  Go: new () => GoRuntime;
  corrienteCarry?: (kit: string, writes: string, ask: string) => string;
  corrienteTrain?: (kit: string) => string;
  corrientePreview?: (reading: string) => string;
};

export interface Ask {
  id: number;
  carry?: { kit: string; writes: string; ask: string };
  train?: string;
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
  const { id, carry, train, preview } = ev.data;
  started
    .then(() => {
      let text = '{"ok":true}';
      if (carry) text = self.corrienteCarry!(carry.kit, carry.writes, carry.ask);
      else if (train !== undefined) text = self.corrienteTrain!(train);
      else if (preview !== undefined) text = self.corrientePreview!(preview);
      self.postMessage({ id, ...(JSON.parse(text) as object) } satisfies Told);
    })
    .catch((e: unknown) => self.postMessage({ id, error: String(e) } satisfies Told));
};

// What is worth trying again by itself, because nobody waits for it.

/** How long is waited before each try, ms: the first lets the page draw. After the last, work just needs the connection. */
export const waits = [400, 3_000, 10_000, 30_000, 60_000];

/** Tries until it is done; what it returns stops that. A try that fails or throws is none. */
export function untilDone(once: () => Promise<boolean>): () => void {
  let timer: ReturnType<typeof setTimeout>;
  let stopped = false;
  const tryAfter = (n: number) => {
    if (stopped || n >= waits.length) return;
    timer = setTimeout(() => {
      void once()
        .catch(() => false)
        .then((done) => done || tryAfter(n + 1));
    }, waits[n]);
  };
  tryAfter(0);
  return () => {
    stopped = true;
    clearTimeout(timer);
  };
}

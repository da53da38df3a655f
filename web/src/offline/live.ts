// What others change, as it happens. A browser opens six connections to one address at most, and a stream keeps one for
// as long as it is listened to: so one tab listens for all, and tells the others. When it goes, the next one does.
const name = "corriente-live";
const retry = 5000; // ms
// A page that was opened so long ago, ms, has read what there is: until then it is reading it.
const fresh = 2000;

/**
 * Calls back with the id of each job that was changed, and where changes may have been missed, since nobody listened for
 * a while; returns what ends that.
 */
export function listen(changed: (job: string) => void, missed: () => void): () => void {
  const ended = new AbortController();
  const since = performance.now();
  const take = (job: string) => (job === "" ? missed() : changed(job));
  const channel = typeof BroadcastChannel === "undefined" ? undefined : new BroadcastChannel(name);
  channel?.addEventListener("message", (e: MessageEvent<string>) => take(e.data));
  let es: EventSource | undefined;
  let again: ReturnType<typeof setTimeout> | undefined;
  const close = () => {
    clearTimeout(again);
    es?.close();
  };
  ended.signal.addEventListener("abort", close);
  const stream = () => {
    if (ended.signal.aborted) return;
    es = new EventSource("/api/events");
    // A browser tries again by itself where the line broke, and never where it was answered with a refusal.
    es.addEventListener("error", () => {
      if (es?.readyState === EventSource.CLOSED) again = setTimeout(stream, retry);
    });
    const tell = (job: string) => {
      take(job);
      channel?.postMessage(job);
    };
    es.addEventListener("hello", () => {
      if (performance.now() - since > fresh) tell("");
    });
    es.addEventListener("job", (e: MessageEvent<string>) => {
      tell((JSON.parse(e.data) as { id: string }).id);
    });
  };
  if (channel && "locks" in navigator) {
    navigator.locks
      .request(
        name,
        { signal: ended.signal },
        () =>
          new Promise<void>((done) => {
            if (ended.signal.aborted) return done();
            stream();
            ended.signal.addEventListener("abort", () => done());
          }),
      )
      .catch(() => {}); // it ended before its turn came
  } else {
    stream();
  }
  return () => {
    ended.abort();
    channel?.close();
  };
}

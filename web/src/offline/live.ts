// What others change, as it happens. A browser opens six connections to one address at most, and a stream keeps one for
// as long as it is listened to: so one tab listens for all, and tells the others. When it goes, the next one does.
const name = "corriente-live";

/** Calls back with the id of each job that was changed; returns what ends that. */
export function listen(changed: (job: string) => void): () => void {
  const ended = new AbortController();
  const channel = typeof BroadcastChannel === "undefined" ? undefined : new BroadcastChannel(name);
  channel?.addEventListener("message", (e: MessageEvent<string>) => changed(e.data));
  const stream = () => {
    const es = new EventSource("/api/events");
    es.addEventListener("job", (e: MessageEvent<string>) => {
      const { id } = JSON.parse(e.data) as { id: string };
      changed(id);
      channel?.postMessage(id);
    });
    return es;
  };
  if (channel && "locks" in navigator) {
    navigator.locks
      .request(
        name,
        { signal: ended.signal },
        () =>
          new Promise<void>((done) => {
            if (ended.signal.aborted) return done();
            const es = stream();
            ended.signal.addEventListener("abort", () => {
              es.close();
              done();
            });
          }),
      )
      .catch(() => {}); // it ended before its turn came
  } else {
    const es = stream();
    ended.signal.addEventListener("abort", () => es.close());
  }
  return () => {
    ended.abort();
    channel?.close();
  };
}

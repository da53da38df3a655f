// A photo goes up in pieces. Where the line breaks, it asks how far it came and goes on from there.
import { api, must, Refused } from "../api/client";

const piece = 512 << 10;
const tries = 8;

const rest = (ms: number) => new Promise((ok) => setTimeout(ok, ms));

/** Sends a photo under an id made here; on tells the share that arrived. Throws what a person should read. */
export async function upload(id: string, file: Blob, on?: (share: number) => void): Promise<void> {
  let at = 0;
  let failed = 0;
  for (;;) {
    const from = at;
    try {
      const r: { at: number; done: boolean } = await must(
        api.PUT("/api/photos/{id}/upload", {
          params: { path: { id }, query: { at, size: file.size } },
          body: "", // the document knows no bytes
          bodySerializer: () => file.slice(from, from + piece),
          headers: { "Content-Type": "application/octet-stream" },
        }),
      );
      if (r.done) {
        on?.(1);
        return;
      }
      at = r.at;
      failed = 0;
      on?.(at / file.size);
    } catch (e) {
      const status = e instanceof Refused ? e.status : 0;
      if (status !== 0 && status !== 409 && status < 500) throw e;
      if (++failed > tries) throw e;
      await rest(Math.min(400 * 2 ** failed, 8000));
      try {
        const r = await must(api.GET("/api/photos/{id}/upload", { params: { path: { id } } }));
        if (r.done) return;
        at = r.at;
      } catch {
        // Still no line: the next round asks again.
      }
    }
  }
}

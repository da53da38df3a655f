import { beforeEach, describe, expect, it, vi } from "vitest";
import { until } from "./patience";
import type { Waiting } from "../src/offline/keep";

// The browser's store, the server and the core, as they are when things go wrong.
const box: Waiting[] = [];
const kept = new Map<string, unknown>();
const server = { up: true, status: 200, got: new Map<string, number>(), order: [] as string[] };

class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

vi.mock("../src/offline/keep", () => ({
  keptJob: (id: string) => Promise.resolve(kept.get(id)),
  keepJob: (j: { view: { id: string } }) => Promise.resolve(void kept.set(j.view.id, j)),
  outbox: () => Promise.resolve([...box]),
  intoOutbox: (w: Waiting) => {
    const i = box.findIndex((x) => x.id === w.id);
    if (i >= 0) box.splice(i, 1);
    box.push(w);
    return Promise.resolve();
  },
  outOfOutbox: (id: string) => {
    const i = box.findIndex((x) => x.id === id);
    if (i >= 0) box.splice(i, 1);
    return Promise.resolve();
  },
}));
vi.mock("../src/offline/core", () => ({
  // As many pieces of evidence as there were and are entered; a line without words is refused, as the core does.
  carry: (kit: string, writes: Waiting[], q: { screen?: object; strip?: true }) => {
    const had = (JSON.parse(kit) as { evidence: unknown[] }).evidence;
    const more = writes.flatMap((w) => w.evidence ?? []);
    const no = writes.filter((w) => w.line?.text === "").map((w) => [w.id, "write what came off"]);
    return Promise.resolve({
      refused: Object.fromEntries(no) as Record<string, string>,
      screen: q.screen && { shown: [], evidence: [...had, ...more], weighed: had.length + more.length },
      strip: q.strip && { items: writes.flatMap((w) => (w.line ? [w.line] : [])) },
    });
  },
}));
vi.mock("../src/api/client", () => ({
  Refused,
  must: async (p: Promise<unknown>) => p,
  api: {
    GET: () =>
      server.up ? Promise.resolve({ id: "j", revision: 9 }) : Promise.reject(new Refused(0, "gone")),
    PATCH: (path: string) => {
      if (!server.up) return Promise.reject(new Refused(0, "gone"));
      server.order.push(path);
      return Promise.resolve({ id: "j" });
    },
    PUT: (path: string) => {
      if (!server.up) return Promise.reject(new Refused(0, "gone"));
      server.order.push(path);
      return Promise.resolve({ done: true, at: 1 });
    },
    POST: (path: string, o: { body: { evidence?: { id: string }[] } }) => {
      if (!server.up) return Promise.reject(new Refused(0, "gone"));
      if (server.status !== 200) return Promise.reject(new Refused(server.status, "no"));
      for (const e of o.body.evidence ?? []) {
        server.got.set(e.id, (server.got.get(e.id) ?? 0) + 1);
        server.order.push(e.id);
      }
      if (!o.body.evidence) server.order.push(path);
      return Promise.resolve({ id: "j", revision: server.order.length });
    },
  },
}));

const reading = (id: string) => ({ evidence: [{ id, measure: "voltage", value: "12.1" }] });

describe("what is typed without a signal", () => {
  let sync: typeof import("../src/offline/sync");
  beforeEach(async () => {
    box.length = 0;
    kept.clear();
    Object.assign(server, { up: true, status: 200 });
    server.got.clear();
    server.order.length = 0;
    vi.resetModules();
    vi.stubGlobal("window", { addEventListener: vi.fn(), removeEventListener: vi.fn() });
    sync = await import("../src/offline/sync");
    kept.set("j", {
      view: { id: "j", revision: 3, evidence: [], unreachable: [], acknowledged: [] },
      circuit: {},
      kit: JSON.stringify({ evidence: [{ id: "old" }] }),
      at: 1,
    });
  });

  it("is sent at once where the server is at hand, and nothing waits", async () => {
    await sync.write("j", reading("a"), "run");
    await until(() => expect(box).toHaveLength(0));
    expect(server.got.get("a")).toBe(1);
  });

  it("is answered by the core, waits, and reaches the server once and in order", async () => {
    server.up = false;
    const here = (await sync.write("j", reading("a"), "run")) as unknown as {
      weighed: number;
      revision: number;
    };
    expect(here.weighed).toBe(2); // what the server had, and this one
    expect(here.revision).toBe(4);
    await sync.write("j", reading("b"), "run");
    expect(box.map((w) => w.evidence![0]!.id)).toEqual(["a", "b"]);
    server.up = true;
    const sent: string[][] = [];
    const stop = sync.watch({ id: "", name: "" }, (jobs) => sent.push(jobs), vi.fn());
    // At the latest the watch tries again by itself.
    await until(() => expect(box).toHaveLength(0)).finally(stop);
    expect(server.order).toEqual(["a", "b"]);
    expect([...server.got.values()]).toEqual([1, 1]);
    expect(sent.flat()).toContain("j");
  });

  it("goes behind what waits already, even when the server is back", async () => {
    server.up = false;
    await sync.write("j", reading("a"), "run");
    server.up = true;
    await sync.write("j", reading("b"), "run");
    await until(() => expect(box).toHaveLength(0));
    expect(server.order).toEqual(["a", "b"]);
  });

  it("is handed back with the reason where the server refuses it, and does not wait", async () => {
    server.status = 422;
    await expect(sync.write("j", reading("a"), "run")).rejects.toThrow("no");
    expect(box).toHaveLength(0);
  });

  it("that the server refuses later stays, marked with the reason, and holds up nothing", async () => {
    server.up = false;
    await sync.write("j", reading("a"), "run");
    Object.assign(server, { up: true, status: 422 });
    await sync.flush();
    expect(box).toHaveLength(1);
    expect(box[0]!.refused).toBe("no");
    server.status = 200;
    await sync.write("j", reading("b"), "run");
    expect(server.order).toEqual(["b"]);
  });

  it("survives an ended session: it is kept and the page is told", async () => {
    const ended = vi.fn();
    const stop = sync.watch({ id: "", name: "" }, vi.fn(), ended);
    server.status = 401;
    await sync.write("j", reading("a"), "run");
    stop();
    expect(ended).toHaveBeenCalled();
    expect(box).toHaveLength(1);
  });

  it("of one person is not sent by another who signed in meanwhile", async () => {
    server.up = false;
    sync.watch({ id: "1", name: "Jory" }, vi.fn(), vi.fn())();
    await sync.write("j", reading("a"), "run");
    server.up = true;
    sync.watch({ id: "2", name: "Pip" }, vi.fn(), vi.fn())();
    await sync.flush();
    expect(server.order).toEqual([]);
    expect(box).toHaveLength(1);
  });

  it("of every stage goes out in the order in which it was entered, a photo before the line it is on", async () => {
    server.up = false;
    const none = () => Promise.resolve();
    await sync.write("j", reading("a"), "run");
    const v = await sync.post("j", { line: { id: "l", text: "bolt" } }, () => sync.hereStrip("j"));
    expect(v.items).toHaveLength(1);
    await sync.sendPhoto("j", "p", new Blob(["x"]));
    expect(sync.waitingPhoto("p")).toBeInstanceOf(Blob);
    await sync.post("j", { change: { item: "l", photo: "p" } }, none);
    await sync.post(
      "j",
      { choice: { id: "d", option: "replace", price: 1, reason: "", by: "customer" } },
      none,
    );
    await sync.post("j", { work: { id: "w", decision: "d" } }, none);
    await sync.write("j", reading("b"), "run");
    await sync.post("j", { tick: { tick: "clean", value: "yes" } }, none);
    await sync.post("j", { sign: { id: "s", result: "passed", signed: "Jory" } }, none);
    server.up = true;
    await until(async () => {
      await sync.flush();
      expect(box).toHaveLength(0);
    });
    expect(server.order).toEqual([
      "a",
      "/api/jobs/{id}/strip",
      "/api/photos/{id}/upload",
      "/api/jobs/{id}/strip/{item}",
      "/api/jobs/{id}/decisions",
      "/api/jobs/{id}/repairs",
      "b",
      "/api/jobs/{id}/proof/ticks/{tick}",
      "/api/jobs/{id}/proof",
    ]);
    expect(sync.waitingPhoto("p")).toBeUndefined();
  });

  it("is refused here where the server would refuse it, and does not wait", async () => {
    server.up = false;
    await sync.write("j", reading("a"), "run");
    await expect(sync.post("j", { line: { id: "l", text: "" } }, () => sync.hereStrip("j"))).rejects.toThrow(
      "Write what came off.",
    );
    expect(box.map((w) => w.evidence?.[0]?.id)).toEqual(["a"]);
  });

  it("lets only changes wait that say the same however often they are sent", () => {
    expect(sync.canWait({ acknowledge: "crank" })).toBe(true);
    expect(sync.canWait({ cannot_reach: "motor", complaint: "x" })).toBe(true);
    expect(sync.canWait({ intermittent: true })).toBe(true);
    expect(sync.canWait({ parameter: { name: "motor.resistance" } })).toBe(false);
  });

  it("on a job that was never opened here cannot be read without a server", async () => {
    server.up = false;
    await expect(sync.here("other", "run")).rejects.toThrow("not opened here before");
    await expect(sync.readJob("other", "run")).rejects.toThrow("gone");
  });
});

// A double of the workshop's server and of what a browser has besides, for tests of the interface's parts. Import it
// before anything that talks to a server: the client takes the page's fetch when it is made.
import "fake-indexeddb/auto";
import { afterEach, beforeEach, vi } from "vitest";
import { cleanup } from "@testing-library/react";

export interface Asked {
  method: string;
  path: string;
  query: URLSearchParams;
  body: unknown;
}
/** What is sent back, or a function of what was asked. */
type Answer = unknown;

/** A refusal as the server sends it. */
export class Refusal {
  constructor(
    readonly status: number,
    readonly detail: string,
  ) {}
}

export const server = {
  asked: [] as Asked[],
  answers: new Map<string, Answer>(),
  /** What is answered to a method and a path; `*` in the path stands for one part of it. */
  on(what: string, answer: Answer) {
    this.answers.set(what, answer);
  },
  /** What was asked by a method of paths that end so. */
  got(method: string, end: string): Asked[] {
    return this.asked.filter((a) => a.method === method && a.path.endsWith(end));
  },
};

/** How the page is looked at, and what instruments say on it. */
export const page = { narrow: false, lives: [] as Live[] };

/** A stream of a live instrument, spoken for by the test. */
export class Live extends EventTarget {
  onerror: (() => void) | null = null;
  closed = false;
  constructor(readonly url: string) {
    super();
    page.lives.push(this);
  }
  says(what: string, data: object) {
    this.dispatchEvent(new MessageEvent(what, { data: JSON.stringify(data) }));
  }
  close() {
    this.closed = true;
  }
}

const NodeRequest = globalThis.Request;
// Node knows no page to which an address is relative, and its requests take no signal of another window.
globalThis.Request = class extends NodeRequest {
  constructor(to: RequestInfo | URL, how?: RequestInit) {
    super(
      typeof to === "string" ? new URL(to, "http://workshop").href : to,
      how && { ...how, signal: undefined },
    );
  }
};

globalThis.fetch = async (to: RequestInfo | URL, how?: RequestInit) => {
  const r = new Request(to, how);
  const u = new URL(r.url);
  const text = await r.text();
  const a: Asked = {
    method: r.method,
    path: u.pathname,
    query: u.searchParams,
    body: r.headers.get("Content-Type")?.includes("json") && text ? JSON.parse(text) : text || undefined,
  };
  server.asked.push(a);
  for (const [what, answer] of server.answers) {
    const [method, path] = what.split(" ");
    const fits = new RegExp(`^${path!.replaceAll("*", "[^/]+")}$`);
    if (method !== a.method || !fits.test(a.path)) continue;
    const v = await (typeof answer === "function" ? (answer as (a: Asked) => unknown)(a) : answer);
    if (v instanceof Refusal)
      return Response.json({ status: v.status, detail: v.detail }, { status: v.status });
    return Response.json(v);
  }
  return Response.json({ status: 404, detail: `nothing answers ${a.method} ${a.path}` }, { status: 404 });
};

if (typeof window !== "undefined") {
  const text = function (this: Blob) {
    return new Promise<string>((done, fail) => {
      const r = new FileReader();
      r.onload = () => (typeof r.result === "string" ? done(r.result) : fail(new Error("no text")));
      r.readAsText(this);
    });
  };
  if (!("text" in Blob.prototype)) Object.defineProperty(Blob.prototype, "text", { value: text });
  window.EventSource = Live as unknown as typeof EventSource;
  window.scrollTo = () => {};
  window.matchMedia = (query: string) => ({
    matches: page.narrow && query.includes("max-width"),
    media: query,
    addEventListener: () => {},
    removeEventListener: () => {},
    addListener: () => {},
    removeListener: () => {},
    dispatchEvent: () => true,
    onchange: null,
  });
  // Everything is as wide as a laptop's page.
  Object.defineProperty(HTMLElement.prototype, "clientWidth", { configurable: true, get: () => 1240 });
  window.ResizeObserver = class {
    constructor(private readonly told: ResizeObserverCallback) {}
    observe() {
      this.told([], this);
    }
    unobserve() {}
    disconnect() {}
  };
  Element.prototype.scrollIntoView = () => {};
}

beforeEach(() => {
  server.asked.length = 0;
  server.answers.clear();
  page.narrow = false;
  page.lives.length = 0;
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

// @vitest-environment jsdom
import { Refusal, server, type Asked } from "./server";
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { Job, Preview } from "../src/api/client";
import Measure from "../src/measure/Measure";
import { circuit, job, showInJob } from "./page";

type Sent = { evidence: Record<string, string>[] };

/** The server takes what is entered and answers with the job as it then is. */
function takes(j: Job, then: (j: Job, a: Asked) => void = () => {}) {
  server.on(`POST /api/jobs/${j.id}/evidence`, (a: Asked) => {
    const after = structuredClone(j);
    for (const e of (a.body as Sent).evidence)
      after.evidence.push({ ...(e as unknown as Job["evidence"][0]), by: "Jory", shown: `${e.value} V` });
    after.revision++;
    then(after, a);
    Object.assign(j, after);
    return after;
  });
}

const understood = (p: Partial<Preview> = {}): Preview => ({
  text: "9.12 V",
  value: 9.12,
  low: 9.05,
  high: 9.19,
  over: false,
  verdict: "bad",
  warnings: [],
  ...p,
});

describe("the next reading", () => {
  let j: Job;
  beforeEach(() => {
    j = job();
    j.acknowledged = ["crank"];
    server.on(`POST /api/jobs/${j.id}/preview`, understood());
    server.on("GET /api/instruments", []);
    server.on("GET /api/board", []);
  });

  it("is said as one technician says it to another, with what good and bad look like", async () => {
    showInJob(<Measure />, { job: j });
    const card = await screen.findByRole("region", { name: "Next reading" });
    const h = within(card).getByRole("heading");
    expect(h.textContent).toMatch(/^DC volts\. Red on the .+, black on the battery minus post\.$/);
    expect(card.textContent).toContain("Good: 0.07 to 0.28 V.");
    expect(card.textContent).toContain("1.83 to 8.04 V if it is the minus clamp");
    expect(card.textContent).toContain("second person");
    expect(card.textContent).toContain("Out of gear, brake on");
  });

  it("asks for the caution to be understood before anything can be entered, once a job", async () => {
    j.acknowledged = [];
    let said: unknown;
    server.on(`PATCH /api/jobs/${j.id}`, (a: Asked) => {
      said = a.body;
      j.acknowledged = ["crank"];
      return j;
    });
    showInJob(<Measure />, { job: j });
    const ok = await screen.findByRole("button", { name: "Understood" });
    expect(screen.queryByRole("textbox")).toBeNull();
    await userEvent.click(ok);
    expect(await screen.findByRole("textbox")).toBeTruthy();
    expect(said).toEqual({ acknowledge: "crank" });
    expect(screen.queryByRole("button", { name: "Understood" })).toBeNull();
  });

  it("keeps its card while Understood is stored and what to do next is weighed anew", async () => {
    j.acknowledged = [];
    const second = j.diagnosis.next[1]!;
    server.on(`PATCH /api/jobs/${j.id}`, () => {
      j.acknowledged = ["crank", "rest"];
      j.revision++;
      const after = structuredClone(j);
      after.thinking = true;
      after.diagnosis.next = [];
      return after;
    });
    showInJob(<Measure />, { job: j });
    await screen.findByRole("button", { name: "Understood" });
    await userEvent.keyboard("n"); // not the first of the list
    const asked = screen.getByRole("heading", { level: 1 }).textContent;
    await userEvent.click(await screen.findByRole("button", { name: "Understood" }));
    expect(await screen.findByRole("textbox")).toBeTruthy();
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe(asked);
    expect(second.state).toBe("crank");
    await waitFor(() => expect(document.activeElement?.tagName).toBe("H1"));
  });

  it("asks what the display shows where zero ohms were typed", async () => {
    const n = j.diagnosis.next[0]!;
    Object.assign(n, { measure: "resistance", state: "isolated" });
    j.acknowledged.push("isolated");
    takes(j);
    showInJob(<Measure />, { job: j });
    await userEvent.type(await screen.findByRole("textbox"), "0,0{Enter}");
    const ask = await screen.findByRole("group", { name: "What does the display show?" });
    expect(server.got("POST", "/evidence")).toHaveLength(0);
    await userEvent.click(within(ask).getByRole("button", { name: /^“OL”/ }));
    await waitFor(() => expect(server.got("POST", "/evidence")).toHaveLength(1));
    expect((server.got("POST", "/evidence")[0]!.body as Sent).evidence[0]).toMatchObject({ value: "OL" });
  });

  it("takes amperes through a part of one's own choice in two touches", async () => {
    takes(j);
    showInJob(<Measure />, { job: j });
    const cable = circuit().stations.find((x) => x.id === "pos_cable")!;
    const path = await screen.findByRole("group", { name: /^Current path/ });
    await userEvent.click(within(path).getByRole("button", { name: new RegExp(`^${cable.label}`) }));
    await userEvent.click(await screen.findByRole("button", { name: "Amps through it" }));
    await waitFor(() => expect(screen.getByText(/^Clamp on DC amperes/).textContent).toContain("round the"));
    await userEvent.type(await screen.findByRole("textbox"), "5 A{Enter}");
    await waitFor(() => expect(server.got("POST", "/evidence")).toHaveLength(1));
    expect((server.got("POST", "/evidence")[0]!.body as Sent).evidence[0]).toMatchObject({
      measure: "current",
      through: "pos_cable",
      state: "crank",
      value: "5 A",
    });
  });

  it("offers of its own only what the state has", async () => {
    showInJob(<Measure />, { job: j });
    await userEvent.click(await screen.findByRole("button", { name: "Other reading" }));
    const what = await screen.findByRole("group", { name: "What is read: Cranking" });
    expect(
      within(what)
        .getAllByRole("button")
        .map((b) => b.textContent),
    ).toEqual(["Volts", "Amps", "What is seen or heard", "close"]);
    await userEvent.click(within(what).getByRole("button", { name: "What is seen or heard" }));
    await userEvent.click(await screen.findByRole("button", { name: "Lamps dim" }));
    expect((await screen.findByRole("heading", { level: 1 })).textContent).toContain("do they dim");
  });

  it("takes a number typed anywhere, shows how it was understood, and is entered once", async () => {
    takes(j);
    showInJob(<Measure />, { job: j });
    await screen.findByRole("textbox");
    (document.activeElement as HTMLElement | null)?.blur();
    await userEvent.keyboard("9.12");
    expect(screen.getByRole<HTMLInputElement>("textbox").value).toBe("9.12");
    expect((await screen.findByText(/9\.12 V ± /)).textContent).toBe(
      "9.12 V ± 0.07 V: not what a good circuit shows",
    );
    await userEvent.keyboard("{Enter}{Enter}");
    await waitFor(() => expect(server.got("POST", "/evidence")).toHaveLength(1));
    const [e] = (server.got("POST", "/evidence")[0]!.body as Sent).evidence;
    const n = j.diagnosis.next[0]!;
    expect(e).toMatchObject({ measure: "voltage", state: "crank", from: n.from, to: n.to, value: "9.12" });
    expect(e!.id).toMatch(/^[0-9a-f-]{36}$/);
    expect(Date.parse(e!.taken_at!)).toBeGreaterThan(Date.now() - 60_000);
  });

  it("shows the picture with the server's first answer, before what to do next is worked out", async () => {
    const before = structuredClone(j);
    takes(j, (after) => {
      after.thinking = true;
      after.diagnosis.next = [];
      for (const p of after.picture.paths)
        for (const s of p.stations) s.suspect = s.id === "neg_clamp" ? 0.97 : 0;
    });
    showInJob(<Measure />, { job: j });
    await screen.findByRole("textbox");
    // What it answers to a second question never comes: the first must do.
    server.on(`GET /api/jobs/${j.id}`, () => new Promise(() => {}));
    const path = () => screen.getByRole("group", { name: /^Current path/ }).getAttribute("aria-label")!;
    expect(path()).not.toMatch(/suspicion 97/);
    await userEvent.keyboard("9.12{Enter}");
    await waitFor(() => expect(path()).toMatch(/suspicion 97/));
    expect(screen.getByText(new RegExp(`${before.evidence.length + 1} entries`))).toBeTruthy();
    expect(await screen.findByText(/Weighing what to do next/)).toBeTruthy();
  });

  it("warns before it stores, and stores on the second Enter only what is meant", async () => {
    server.on(
      `POST /api/jobs/${j.id}/preview`,
      understood({
        warnings: [{ code: "unit_slip", says: "As 0.912 V it would fit: a point misplaced?" }],
      }),
    );
    takes(j);
    showInJob(<Measure />, { job: j });
    await userEvent.type(await screen.findByRole("textbox"), "9.12");
    expect(await screen.findByText(/a point misplaced\?/)).toBeTruthy();
    expect(server.got("POST", "/evidence")).toHaveLength(0);
  });

  it("says why a reading is refused and leaves it in the field", async () => {
    server.on(`POST /api/jobs/${j.id}/evidence`, new Refusal(422, "“9.12x”: this is no number: write 9.12."));
    showInJob(<Measure />, { job: j });
    await userEvent.type(await screen.findByRole("textbox"), "9.12x{Enter}");
    expect(await screen.findByText(/this is no number: write 9\.12/)).toBeTruthy();
    expect(screen.getByRole<HTMLInputElement>("textbox").value).toBe("9.12x");
  });

  it("offers another, and a place that cannot be reached is not asked again", async () => {
    let patched: { cannot_reach?: string } = {};
    server.on(`PATCH /api/jobs/${j.id}`, (a: Asked) => {
      patched = a.body as typeof patched;
      return j;
    });
    showInJob(<Measure />, { job: j });
    const first = (await screen.findByRole("heading", { level: 1 })).textContent;
    await userEvent.keyboard("n");
    await waitFor(() => expect(screen.getByRole("heading", { level: 1 }).textContent).not.toBe(first));
    await userEvent.keyboard("c");
    await waitFor(() => expect(patched.cannot_reach).toBeTruthy());
    const second = j.diagnosis.next[1]!;
    expect([second.observe, second.through, second.from, second.to]).toContain(patched.cannot_reach);
  });

  it("only reads for who may only read", async () => {
    showInJob(<Measure />, { job: j, mayWrite: false });
    await screen.findByRole("region", { name: "Next reading" });
    expect(screen.queryByRole("textbox")).toBeNull();
    expect(screen.queryByRole("button", { name: /Cannot reach/ })).toBeNull();
    await userEvent.keyboard("u");
    expect(server.asked.filter((a) => a.method !== "GET")).toEqual([]);
  });
});

describe("a question", () => {
  it("is answered by one key, and by no other", async () => {
    const j = job();
    j.acknowledged = ["crank"];
    const o = circuit().observations.find((x) => x.id === "lamps_dim")!;
    j.diagnosis.next = [
      {
        observe: o.id,
        state: "crank",
        minutes: 0.5,
        people: 1,
        bits: 0.4,
        because: "whether current flows",
      },
    ];
    server.on("GET /api/board", []);
    takes(j);
    showInJob(<Measure />, { job: j });
    await screen.findByRole("heading", { name: o.question });
    await userEvent.keyboard("9");
    expect(server.got("POST", "/evidence")).toHaveLength(0);
    await userEvent.keyboard("2");
    await waitFor(() => expect(server.got("POST", "/evidence")).toHaveLength(1));
    expect((server.got("POST", "/evidence")[0]!.body as Sent).evidence[0]).toMatchObject({
      observe: "lamps_dim",
      state: "crank",
      outcome: o.outcomes[1]!.id,
    });
  });
});

describe("the current path", () => {
  it("reads out what it shows: every part with its loss and its suspicion, every point with its volts", async () => {
    const j = job();
    showInJob(<Measure />, { job: j });
    const main = j.picture.paths[0]!;
    const path = await screen.findByRole("group", { name: /^Current path/ });
    for (const s of main.stations) expect(path.getAttribute("aria-label")).toContain(`${s.label}:`);
    for (const n of main.nodes.filter((x) => !x.hidden))
      expect(within(path).getByRole("button", { name: new RegExp(`^${n.label}`) })).toBeTruthy();
  });

  it("takes two points, red then black, and Escape goes back to the advised reading", async () => {
    const j = job();
    j.acknowledged = ["crank"];
    showInJob(<Measure />, { job: j });
    const path = await screen.findByRole("group", { name: /^Current path/ });
    const advised = screen.getByRole("heading", { level: 1 }).textContent;
    const point = (label: string) => within(path).getByRole("button", { name: new RegExp(`^${label}`) });
    const [a, b] = [j.picture.paths[0]!.nodes[2]!, j.picture.paths[0]!.nodes[4]!];
    await userEvent.click(point(a.label));
    expect(screen.getByRole("heading", { level: 1 }).textContent).toContain(
      `Red on the ${a.label}, black on …`,
    );
    await userEvent.click(point(b.label));
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe(
      `DC volts. Red on the ${a.label}, black on the ${b.label}.`,
    );
    await userEvent.keyboard("{Escape}");
    (document.activeElement as HTMLElement | null)?.blur();
    await userEvent.keyboard("{Escape}");
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe(advised);
  });

  it("is drawn anew for another state", async () => {
    const j = job();
    const rest = structuredClone(j);
    rest.picture.state = "rest";
    rest.picture.flows = false;
    showInJob(<Measure />, { job: j });
    await screen.findByRole("group", { name: /^Current path/ });
    server.on(`GET /api/jobs/${j.id}`, (a: Asked) => (a.query.get("state") === "rest" ? rest : j));
    await userEvent.click(screen.getByRole("tab", { name: "At rest" }));
    await waitFor(() =>
      expect(screen.getByRole("tab", { name: "At rest" }).getAttribute("aria-selected")).toBe("true"),
    );
    expect(screen.getByRole("tab", { name: "Cranking" }).getAttribute("aria-selected")).toBe("false");
  });
});

describe("evidence", () => {
  it("is struck out by one touch and can be taken in again", async () => {
    const j = job();
    const outs: boolean[] = [];
    server.on("GET /api/board", []);
    server.on(`POST /api/jobs/${j.id}/evidence/*/strike`, (a: Asked) => {
      const out = (a.body as { out: boolean }).out;
      outs.push(out);
      const id = a.path.split("/").at(-2);
      for (const e of j.evidence) if (e.id === id) e.struck = out;
      j.revision++;
      return structuredClone(j);
    });
    showInJob(<Measure />, { job: j });
    await userEvent.click(await screen.findByRole("tab", { name: /^Readings \(/ }));
    await userEvent.click((await screen.findAllByRole("button", { name: /^strike out/ }))[0]!);
    await userEvent.click(await screen.findByRole("button", { name: /^take back/ }));
    await waitFor(() => expect(outs).toEqual([true, false]));
  });

  it("names who entered it", async () => {
    const j = job();
    Object.assign(j.evidence[0]!, { by: "Pip (apprentice)" });
    showInJob(<Measure />, { job: j });
    await userEvent.click(await screen.findByRole("tab", { name: /^Readings \(/ }));
    expect(await screen.findByText(/Pip \(apprentice\)/)).toBeTruthy();
  });
});

describe("a verdict", () => {
  it("is one sentence, with what it rests on and what it does not rule out", async () => {
    const j = job();
    const v = j.diagnosis.verdict;
    v.status = "isolated";
    v.station = "neg_clamp";
    v.probability = 0.98;
    v.says = "The minus clamp is at fault.";
    showInJob(<Measure />, { job: j });
    const card = await screen.findByRole("region", { name: "Verdict" });
    expect(within(card).getByRole("heading").textContent).toContain("The minus clamp is at fault.");
    expect(screen.queryByRole("textbox")).toBeNull();
    await userEvent.click(within(card).getByRole("button", { name: /more reading/i }));
    expect(await screen.findByRole("region", { name: "Next reading" })).toBeTruthy();
  });
});

// @vitest-environment jsdom
import { page, Refusal, server, type Asked } from "./server";
import type { NewEvidence } from "../src/api/client";
import { act, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { Instrument, Job } from "../src/api/client";
import { BlinkCounter, blinkEvidence } from "../src/checks/BlinkCounter";
import Instruments from "../src/instruments/Instruments";
import Measure from "../src/measure/Measure";
import { places } from "../src/measure/Walk";
import { job, show, showInJob } from "./page";

type Sent = { evidence: NewEvidence[] };
const sent = () => server.got("POST", "/evidence").map((a) => (a.body as Sent).evidence[0]!);

const meter: Instrument = {
  id: "018f0000-0000-7000-8000-0000000000aa",
  name: "Yellow meter",
  kind: "multimeter",
  address: "127.0.0.1:5025",
  percent: 0.5,
  counts: 2,
  digit: 0.01,
  ohm_digit: 0.1,
  leads_ohm: 0.2,
  zero_a: 0,
  measures: ["voltage", "resistance"],
};
const reading = (text: string, settled: boolean) => ({
  value: parseFloat(text),
  over: false,
  settled,
  min: parseFloat(text) - 0.2,
  max: parseFloat(text) + 0.2,
  n: 9,
  text: `${text} V`,
  take: text,
  min_text: "",
  max_text: "",
  mean_text: "",
});

let j: Job;
beforeEach(() => {
  localStorage.clear();
  j = job();
  j.acknowledged = ["crank"];
  server.on("GET /api/instruments", [meter]);
  server.on("GET /api/board", []);
  server.on(`POST /api/jobs/${j.id}/preview`, {
    text: "9.12 V",
    value: 9.12,
    low: 9.05,
    high: 9.19,
    over: false,
    verdict: "",
    warnings: [],
  });
  server.on(`POST /api/jobs/${j.id}/evidence`, (a: Asked) => {
    for (const e of (a.body as Sent).evidence) j.evidence.push({ ...e, shown: "" });
    j.revision++;
    return structuredClone(j);
  });
});

describe("a live meter", () => {
  beforeEach(() => localStorage.setItem("corriente.meter.voltage", meter.name));

  it("is followed at the places that are asked for, and shown moving and at rest", async () => {
    showInJob(<Measure />, { job: j });
    await waitFor(() => expect(page.lives).toHaveLength(1));
    const n = j.diagnosis.next[0]!;
    const q = new URL(page.lives[0]!.url, "http://x").searchParams;
    expect([q.get("measure"), q.get("state"), q.get("from"), q.get("to")]).toEqual([
      "voltage",
      "crank",
      n.from,
      n.to,
    ]);
    act(() => page.lives[0]!.says("reading", reading("9.10", false)));
    expect(await screen.findByText(/9\.10 V/)).toBeTruthy();
    expect(sent()).toHaveLength(0);
  });

  it("is taken by the space bar as soon as it has come to rest, once, with its name", async () => {
    showInJob(<Measure />, { job: j });
    await waitFor(() => expect(page.lives).toHaveLength(1));
    act(() => page.lives[0]!.says("reading", reading("9.10", false)));
    await screen.findByText(/9\.10 V/);
    await userEvent.keyboard(" ");
    expect(sent()).toHaveLength(0);
    act(() => page.lives[0]!.says("reading", reading("9.12", true)));
    await waitFor(() => expect(sent()).toHaveLength(1));
    act(() => page.lives[0]!.says("reading", reading("9.12", true)));
    expect(sent()).toHaveLength(1);
    expect(sent()[0]).toMatchObject({ value: "9.12", instrument: meter.name, measure: "voltage" });
  });

  it("says plainly what is wrong with it and stores nothing", async () => {
    showInJob(<Measure />, { job: j });
    await waitFor(() => expect(page.lives).toHaveLength(1));
    act(() =>
      page.lives[0]!.says("problem", { says: "Yellow meter answered “HELLO”, which is no reading." }),
    );
    expect(await screen.findByText(/which is no reading/)).toBeTruthy();
    await userEvent.keyboard(" ");
    act(() => page.lives[0]!.onerror?.());
    expect(await screen.findByText(/comes back by itself/)).toBeTruthy();
    expect(sent()).toHaveLength(0);
  });

  it("is let go when the page is left", async () => {
    const shown = showInJob(<Measure />, { job: j });
    await waitFor(() => expect(page.lives).toHaveLength(1));
    shown.unmount();
    expect(page.lives[0]!.closed).toBe(true);
  });
});

describe("walking the path", () => {
  it("goes where the diagnoses differ most, at most five places, in the order of the path", () => {
    const pic = j.picture;
    const route = places(pic, "bat_neg");
    const nodes = pic.paths[0]!.nodes;
    expect(route.length).toBeGreaterThan(1);
    expect(route.length).toBeLessThanOrEqual(5);
    const at = route.map((id) => nodes.findIndex((n) => n.id === id));
    expect(at).toEqual([...at].sort((a, b) => a - b));
    expect(route).not.toContain("bat_neg");
    const spread = (id: string) => {
      const n = nodes.find((x) => x.id === id)!;
      return n.high - n.low;
    };
    const left = nodes.filter(
      (n) => !route.includes(n.id) && n.id !== "bat_neg" && n.measured === undefined && !n.hidden,
    );
    const least = Math.min(...route.map(spread));
    for (const n of left) expect(n.high - n.low).toBeLessThanOrEqual(least + 1e-9);
  });

  it("moves on with each value, black staying on battery minus, and ends with what it says", async () => {
    showInJob(<Measure />, { job: j });
    await screen.findByRole("textbox");
    (document.activeElement as HTMLElement | null)?.blur();
    await userEvent.keyboard("w");
    const walk = await screen.findByRole("region", { name: "Walk the path" });
    const steps = within(walk).getAllByRole("listitem");
    for (let i = 0; i < steps.length; i++) await userEvent.keyboard(`1${i}.5{Enter}`);
    await waitFor(() => expect(sent()).toHaveLength(steps.length));
    expect(new Set(sent().map((e) => e.from)).size).toBe(steps.length);
    for (const e of sent()) expect(e).toMatchObject({ to: "bat_neg", state: "crank", measure: "voltage" });
    expect(within(walk).getByRole("heading").textContent).toBe("The walk is done.");
    await userEvent.click(within(walk).getByRole("button", { name: "See what it says" }));
    expect(screen.queryByRole("region", { name: "Walk the path" })).toBeNull();
  });

  it("brings a place back whose value was refused, with what was typed", async () => {
    showInJob(<Measure />, { job: j });
    await screen.findByRole("textbox");
    (document.activeElement as HTMLElement | null)?.blur();
    await userEvent.keyboard("w");
    const walk = await screen.findByRole("region", { name: "Walk the path" });
    const first = within(walk).getByRole("heading").textContent;
    server.on(`POST /api/jobs/${j.id}/evidence`, new Refusal(422, "“12 A”: amperes do not fit volts."));
    await userEvent.keyboard("12 A{Enter}");
    expect(await within(walk).findByText("“12 A”: amperes do not fit volts.")).toBeTruthy();
    expect(within(walk).getByRole("heading").textContent).toBe(first);
    expect(within(walk).getByRole<HTMLInputElement>("textbox").value).toBe("12 A");
  });
});

describe("on a phone", () => {
  it("the path turns vertical and a keypad of our own types the reading", async () => {
    page.narrow = true;
    showInJob(<Measure />, { job: j });
    const main = j.picture.paths[0]!;
    expect(await screen.findByRole("region", { name: `${main.label} path` })).toBeTruthy();
    expect(screen.queryByRole("group", { name: /^Current path/ })).toBeNull();
    const pad = screen.getByRole("group", { name: "Keypad" });
    for (const k of ["9", ".", "1", "5", "delete", "2"])
      await userEvent.click(within(pad).getByRole("button", { name: k }));
    expect(screen.getByRole<HTMLInputElement>("textbox").value).toBe("9.12");
    expect(screen.getByRole("textbox").getAttribute("inputmode")).toBe("none");
    await userEvent.click(screen.getByRole("button", { name: /^Record/ }));
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]!.value).toBe("9.12");
  });
});

describe("the blink counter", () => {
  it("sends the taps as they were made, and records the code that was heard or typed", async () => {
    const codes: number[] = [];
    server.on("POST /api/blink", (a: Asked) => {
      const n = (a.body as { taps: number[] }).taps.length;
      return { says: `${n} flashes so far`, rounds: n >= 3 ? [3] : [], code: n >= 3 ? 3 : 0, sure: 0.9 };
    });
    show(<BlinkCounter busy={false} onCode={(n) => codes.push(n)} />);
    const tap = screen.getByRole("button", { name: "Tap with each flash" });
    await userEvent.click(tap);
    (document.activeElement as HTMLElement).blur();
    await userEvent.keyboard("  ");
    expect(await screen.findByText("3 flashes so far")).toBeTruthy();
    const taps = (server.got("POST", "/blink").at(-1)!.body as { taps: number[] }).taps;
    expect([...taps].sort((a, b) => a - b)).toEqual(taps);
    await userEvent.click(await screen.findByRole("button", { name: /^Code 3/ }));
    await userEvent.type(screen.getByRole("textbox", { name: "Or type the code" }), "1x2{Enter}");
    await userEvent.click(screen.getByRole("button", { name: "No code" }));
    expect(codes).toEqual([3, 12, 0]);
  });

  it("says of a code that it comes only when the lever is moved", () => {
    const c = {
      states: [
        { id: "key_on", commands: false },
        { id: "drive", commands: true },
      ],
    } as unknown as Parameters<typeof blinkEvidence>[0];
    const o = { id: "blink_code", states: ["key_on", "drive"] };
    const of = (late: boolean) => blinkEvidence(c, o, "key_on", 4, late).map((e) => [e.state, e.outcome]);
    expect(of(true)).toEqual([
      ["key_on", "0"],
      ["drive", "4"],
    ]);
    expect(of(false)).toEqual([["key_on", "4"]]);
  });
});

describe("the workshop's meters", () => {
  it("say what they may be off, are added with an id, and say what is refused", async () => {
    let refuse = true;
    server.on("PUT /api/instruments", (a: Asked) =>
      refuse
        ? new Refusal(422, "There is a meter of that name: choose another.")
        : [meter, { ...(a.body as Instrument), measures: ["voltage"] }],
    );
    show(<Instruments />);
    expect(await screen.findByText(/± \(0\.5 % \+ 2 counts of 0\.01 V\) · ohms to 0\.1 Ω/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Add a meter" }));
    expect(screen.getByRole("button", { name: "Keep" })).toHaveProperty("disabled", true);
    await userEvent.keyboard("Bench meter");
    await userEvent.click(screen.getByRole("button", { name: "Keep" }));
    expect(await screen.findByText("There is a meter of that name: choose another.")).toBeTruthy();
    refuse = false;
    await userEvent.click(screen.getByRole("button", { name: "Keep" }));
    expect(await screen.findByRole("heading", { name: /Bench meter/ })).toBeTruthy();
    const ids = server.got("PUT", "/instruments").map((a) => (a.body as Instrument).id);
    expect(new Set(ids).size).toBe(1);
  });

  it("are only read by who may only read", async () => {
    show(<Instruments />, { mayWrite: false });
    await screen.findByText(/Yellow meter/);
    expect(screen.queryByRole("button", { name: "Add a meter" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Forget" })).toBeNull();
  });
});

// @vitest-environment jsdom
import { Refusal, server, type Asked } from "./server";
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { StripView } from "../src/api/client";
import Back from "../src/strip/Back";
import Strip from "../src/strip/Strip";
import calcFile from "./fixtures/calc.json";
import calculators from "./fixtures/calculators.json";
import stripFile from "./fixtures/strip.json";
import { here, job, showInJob } from "./page";

let view: StripView;
const j = job();
beforeEach(() => {
  view = structuredClone(stripFile);
  server.on(`GET /api/jobs/${j.id}/strip`, () => view);
  server.on("GET /api/craft", []);
});

describe("the strip-down", () => {
  it("takes a line and one key a thing, and leaves the field ready for the next", async () => {
    server.on(`POST /api/jobs/${j.id}/strip`, (a: Asked) => {
      const { id, text } = a.body as { id: string; text: string };
      view.items.push({
        ...view.items[0]!,
        id,
        entry: { ...view.items[0]!.entry, text, what: text, count: 1 },
      });
      return structuredClone(view);
    });
    showInJob(<Strip />);
    const field = await screen.findByRole("textbox", { name: "What came off" });
    expect(document.activeElement).toBe(field);
    await userEvent.keyboard("10 mm nut{Enter}through bolt{Enter}");
    await waitFor(() => expect(server.got("POST", "/strip")).toHaveLength(2));
    expect(server.got("POST", "/strip").map((a) => (a.body as { text: string }).text)).toEqual([
      "10 mm nut",
      "through bolt",
    ]);
    const ids = server.got("POST", "/strip").map((a) => (a.body as { id: string }).id);
    expect(new Set(ids).size).toBe(2);
    expect(document.activeElement).toBe(field);
    expect((field as HTMLInputElement).value).toBe("");
  });

  it("shows count, size, kind and warning as they were understood, and the order of a stack", async () => {
    showInJob(<Strip />);
    const lines = await screen.findAllByRole("listitem");
    const bolt = lines.find((l) => l.textContent?.includes("long bolt"))!;
    expect(bolt.textContent).toContain("2 ×");
    expect(bolt.textContent).toContain("8 mm");
    expect(bolt.textContent).toContain("! breaks");
    const stack = lines.find((l) => l.textContent?.includes("large washer"))!;
    expect([...stack.querySelectorAll(".stack-order span")].map((s) => s.textContent)).toEqual([
      "washer",
      "washer",
      "large washer",
      "nut",
    ]);
  });

  it("says before a motor is opened that the fault is hardly in it, until something inside was looked at", async () => {
    view.share = 0.06;
    const page = showInJob(<Strip />);
    expect(await screen.findByText(/Only 6 in 100 that it lies in here/)).toBeTruthy();
    await userEvent.click(screen.getByRole("link", { name: "Measure on" }));
    expect(here).toMatch(/measure$/);
    page.unmount();
    view.share = 0.8;
    showInJob(<Strip />);
    await screen.findByRole("group", { name: "Brushes" });
    expect(screen.queryByText(/in 100 that it lies in here/)).toBeNull();
  });

  it("counts what is found inside at once", async () => {
    server.on("GET /api/board", []);
    server.on(`POST /api/jobs/${j.id}/evidence`, () => job());
    showInJob(<Strip />);
    const brushes = await screen.findByRole("group", { name: "Brushes" });
    await userEvent.click(within(brushes).getByRole("button", { name: "worn to the mark" }));
    await waitFor(() => expect(server.got("POST", "/evidence")).toHaveLength(1));
    expect((server.got("POST", "/evidence")[0]!.body as { evidence: object[] }).evidence[0]).toMatchObject({
      observe: "brushes_seen",
      outcome: "worn",
      state: "isolated",
    });
  });

  it("lets a brush be broken and stuck, and a good answer take the place of both", async () => {
    const at = new Date().toISOString();
    const seen = (id: string, outcome: string) => ({
      ...job().evidence[0]!,
      id,
      observe: "brushes_seen",
      state: "isolated",
      outcome,
      measure: undefined,
      struck: false,
      taken_at: at,
    });
    const with1 = { ...job(), evidence: [seen("one", "broken")] };
    view.inside.find((x) => x.observe === "brushes_seen")!.given = ["broken"];
    server.on("GET /api/board", []);
    server.on(`POST /api/jobs/${j.id}/evidence`, () => with1);
    showInJob(<Strip />, { job: with1 });
    const brushes = await screen.findByRole("group", { name: "Brushes" });
    await userEvent.click(within(brushes).getByRole("button", { name: "stuck in the holder" }));
    await waitFor(() => expect(server.got("POST", "/evidence")).toHaveLength(1));
    expect(server.asked.filter((a) => a.method === "DELETE" || a.path.includes("strike"))).toHaveLength(0);
  });

  it("asks with one touch what a line is that may mean two things", async () => {
    view.items[0]!.entry = {
      ...view.items[0]!.entry,
      text: "lead off",
      what: "lead off",
      act: "found",
      unsure: true,
    };
    server.on(`PATCH /api/jobs/${j.id}/strip/*`, () => structuredClone(view));
    showInJob(<Strip />);
    const ask = await screen.findByRole("group", { name: "What is “lead off”?" });
    await userEvent.click(within(ask).getByRole("button", { name: "came off" }));
    const patched = () => server.asked.filter((a) => a.method === "PATCH" && a.path.includes("/strip/"));
    await waitFor(() => expect(patched()).toHaveLength(1));
    expect(patched()[0]!.body).toMatchObject({ text: "came off: lead off" });
  });

  it("is read only for who may not write", async () => {
    showInJob(<Strip />, { mayWrite: false });
    await screen.findByText(/long bolt/);
    expect(screen.queryByRole("textbox", { name: "What came off" })).toBeNull();
    expect(screen.queryByRole("button", { name: /^Strike out/ })).toBeNull();
  });
});

describe("putting back", () => {
  it("goes in reverse, one key a thing, and says what is left", async () => {
    const backed: string[] = [];
    server.on(`PATCH /api/jobs/${j.id}/strip/*`, (a: Asked) => {
      const id = a.path.split("/").at(-1)!;
      backed.push(id);
      view.left = view.left.filter((x) => x !== id);
      for (const i of view.items) if (i.id === id) i.back_at = "2026-11-25T10:00:00Z";
      return structuredClone(view);
    });
    showInJob(<Back />);
    const todo = view.items.filter((i) => i.ticks).toReversed();
    await screen.findByText(`${todo.length} of ${todo.length} still to go back`);
    for (let n = 1; n <= todo.length; n++) {
      await userEvent.keyboard("{Enter}");
      await waitFor(() => expect(backed).toHaveLength(n));
      await screen.findByText(
        n < todo.length ? `${todo.length - n} of ${todo.length} still to go back` : /All back/,
      );
    }
    expect(backed).toEqual(todo.map((i) => i.id));
    expect(screen.getByRole("link", { name: "Prove it" })).toBeTruthy();
  });

  it("lets what does not go back be explained", async () => {
    server.on(`PATCH /api/jobs/${j.id}/strip/*`, (a: Asked) => {
      Object.assign(
        view.items.find((i) => a.path.endsWith(i.id))!,
        a.body,
      );
      return structuredClone(view);
    });
    showInJob(<Back />);
    await userEvent.click((await screen.findAllByRole("button", { name: "does not go back" }))[0]!);
    await userEvent.keyboard("replaced by a new one{Enter}");
    expect(await screen.findByText("Not back: replaced by a new one")).toBeTruthy();
  });
});

describe("a calculator", () => {
  beforeEach(() => {
    server.on("GET /api/calculators", calculators);
    server.on("POST /api/calculators/winding", (a: Asked) => {
      const shown = (a.body as { inputs: Record<string, string> }).inputs.shown;
      return shown === "x" ? new Refusal(422, "The meter shows: “x” is no number. Write 1.1.") : calcFile;
    });
  });
  const open = async () => {
    showInJob(<Strip />, { at: `/jobs/${j.id}/strip?beside=bench` });
    await userEvent.click(await screen.findByRole("button", { name: "Winding by ohmmeter" }));
    return screen.findByRole("textbox", { name: "The meter shows" });
  };

  it("shows its formula and source, and answers with its uncertainty while it is typed", async () => {
    const field = await open();
    expect(screen.getByText(/R = \(shown − leads\)/)).toBeTruthy();
    expect(screen.getByText(/IEC 60034-1/)).toBeTruthy();
    await userEvent.type(field, "1.1");
    expect(await screen.findByText("? This cannot tell")).toBeTruthy();
    expect(screen.getByText("0.90 Ω ± 0.51 Ω", { selector: "dd" })).toBeTruthy();
    expect(screen.getByText(/Four-wire: a known current/)).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Count it as evidence" })).toBeNull();
  });

  it("says which input is wrong and how to mend it, and gives no answer to it", async () => {
    await userEvent.type(await open(), "x");
    expect(await screen.findByText(/“x” is no number\. Write 1\.1\./)).toBeTruthy();
    expect(screen.queryByText("? This cannot tell")).toBeNull();
  });

  it("is kept with the job by one touch, with what went into it", async () => {
    server.on(`POST /api/jobs/${j.id}/notes`, () => view);
    await userEvent.type(await open(), "1.1");
    await userEvent.click(await screen.findByRole("button", { name: "Keep as a note" }));
    await waitFor(() => expect(server.got("POST", "/notes")).toHaveLength(1));
    expect(server.got("POST", "/notes")[0]!.body).toMatchObject({
      text: calcFile.note,
      detail: { calculator: "winding", inputs: { shown: "1.1" } },
    });
  });
});

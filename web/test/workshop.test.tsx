// @vitest-environment jsdom
import { Refusal, server, type Asked } from "./server";
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { Job } from "../src/api/client";
import Checks from "../src/checks/Checks";
import Codes from "../src/codes/Codes";
import Complaint from "../src/complaint/Complaint";
import Logbook from "../src/logbook/Logbook";
import Training from "../src/train/Training";
import circuitFile from "./fixtures/circuit.json";
import codes from "./fixtures/codes.json";
import learned from "./fixtures/learned.json";
import logbook from "./fixtures/logbook.json";
import training from "./fixtures/training.json";
import { circuit, here, job, show, showInJob } from "./page";

/** Chooses in a list of the component library by typing what is sought. */
async function choose(name: string, words: string) {
  const box = screen.getByRole("combobox", { name });
  await userEvent.click(box);
  await userEvent.type(box, words);
  await userEvent.click((await screen.findAllByTitle(new RegExp(words)))[0]!);
}

describe("the logbook", () => {
  beforeEach(() => {
    server.on("GET /api/circuits", [circuitFile.circuit]);
    server.on("GET /api/logbook", logbook);
    server.on("GET /api/learned/starter", learned);
  });

  it("finds by one field, page by page, and takes along what was found", async () => {
    show(<Logbook />, { at: "/logbook" });
    await screen.findByText(logbook.entries[0]!.complaint);
    await userEvent.keyboard("/");
    await userEvent.keyboard("9.87 V");
    await waitFor(() => expect(server.got("GET", "/logbook").at(-1)!.query.get("q")).toBe("9.87 V"));
    const csv = screen.getByRole("link", { name: "CSV" }).getAttribute("href")!;
    const asked = new URL(csv, "http://x").searchParams;
    expect([asked.get("q"), asked.get("format")]).toEqual(["9.87 V", "csv"]);
  });

  it("says what to do when nothing matches", async () => {
    server.on("GET /api/logbook", { entries: [] });
    show(<Logbook />, { at: "/logbook" });
    await userEvent.type(await screen.findByRole("textbox", { name: "Search the logbook" }), "zeppelin");
    expect(await screen.findByText(/Nothing matches “zeppelin”\. Fewer words/)).toBeTruthy();
  });

  it("shows what was learned beside what ships, and lets only the owner forget it", async () => {
    show(<Logbook />, { at: "/logbook?view=learned" });
    const r = learned.rates.find((x) => x.n > 0)!;
    expect(await screen.findByText(r.label)).toBeTruthy();
    expect(
      screen.getAllByText(new RegExp(`here ${r.n} of ${r.of}: counted as ${Math.round(100 * r.here)} %`)),
    ).not.toHaveLength(0);
    expect(screen.queryByRole("button", { name: /Learn anew/ })).toBeNull();
  });

  it("reads an old list line by line first, and keeps nothing while one line is wrong", async () => {
    let wrong = 1;
    server.on("PUT /api/logbook/import", (a: Asked) => ({
      lines: [
        { n: 2, on: "2019-04-02", machine: "Reed cutter", what: "does not start", done: "brushes" },
        { n: 3, on: "", machine: "", what: "", done: "", wrong: wrong ? "no date: write 2019-04-02" : "" },
      ],
      good: 2 - wrong,
      wrong,
      kept: a.query.get("keep") === "true" ? 2 : 0,
    }));
    show(<Logbook />, { at: "/logbook" });
    await userEvent.click(await screen.findByRole("button", { name: "Bring an old list in" }));
    const pick = document.querySelector<HTMLInputElement>("input[type=file]")!;
    const file = () => new File(["machine,date,complaint\n"], "old.csv", { type: "text/csv" });
    await userEvent.upload(pick, file());
    expect(await screen.findByText("no date: write 2019-04-02")).toBeTruthy();
    expect(screen.getByRole("button", { name: /^Keep/ })).toHaveProperty("disabled", true);
    wrong = 0;
    await userEvent.upload(pick, file());
    await waitFor(() =>
      expect(screen.getByRole("button", { name: "Keep 2 lines" })).toHaveProperty("disabled", false),
    );
    await userEvent.click(screen.getByRole("button", { name: "Keep 2 lines" }));
    expect(await screen.findByText("✓ 2 lines kept.")).toBeTruthy();
    expect(server.got("PUT", "/import").map((a) => a.query.get("keep"))).toEqual(["false", "false", "true"]);
  });
});

describe("blink codes", () => {
  it("show where the same number means something else in another machine", async () => {
    server.on("GET /api/codes", codes);
    server.on("GET /api/circuits", [circuitFile.circuit]);
    show(<Codes />);
    await screen.findByRole("heading", { name: codes[0]!.controller });
    const same = (name: string) => codes.filter((t) => t.controller === name);
    for (const name of new Set(codes.map((t) => t.controller))) {
      const mine = same(name);
      const clash = mine.flatMap((t) =>
        t.entries.filter((e) =>
          mine.some((o) => o !== t && o.entries.some((x) => x.code === e.code && x.says !== e.says)),
        ),
      );
      const card = screen.getByRole("heading", { name }).closest("section")!;
      expect(card.querySelectorAll("tr.differs")).toHaveLength(clash.length);
    }
  });
});

describe("the complaint", () => {
  let j: Job;
  let changed: Record<string, unknown>[];
  beforeEach(() => {
    j = job();
    changed = [];
    server.on("GET /api/codes", []);
    server.on("GET /api/board", []);
    server.on(`PATCH /api/jobs/${j.id}`, (a: Asked) => {
      changed.push(a.body as Record<string, unknown>);
      const { complaint, when } = a.body as Partial<Job>;
      if (complaint !== undefined) j.complaint = complaint;
      if (when) j.when = when;
      j.revision++;
      return structuredClone(j);
    });
  });

  it("saves itself when the field is left, and only then, and only what was changed", async () => {
    showInJob(<Complaint />, { job: j });
    const field = await screen.findByRole("textbox", { name: "What does it do, or not do?" });
    await userEvent.type(field, " Since Monday.");
    expect(changed).toEqual([]);
    await userEvent.tab();
    await waitFor(() => expect(changed).toEqual([{ complaint: j.complaint }]));
    expect(j.complaint).toMatch(/Since Monday\.$/);
    await userEvent.click(field);
    await userEvent.tab();
    expect(changed).toHaveLength(1);
  });

  it("takes when it shows by one touch, and takes it back by another", async () => {
    j.when = [];
    showInJob(<Complaint />, { job: j });
    await userEvent.click(await screen.findByRole("button", { name: "cold" }));
    await userEvent.click(await screen.findByRole("button", { name: "✓ cold" }));
    await waitFor(() => expect(changed).toEqual([{ when: ["cold"] }, { when: [] }]));
  });

  const settings = {
    settings: [{ name: "coil.pull_in", label: "Solenoid coil: pulls in at", unit: "V", usual: "7 V" }],
    given: [],
    plate: {},
  };

  it("takes a motor's plate as it stands there, and says what amperes follow", async () => {
    let plate: object = {};
    server.on(`GET /api/jobs/${j.id}/settings`, () => ({
      ...settings,
      plate: Object.keys(plate).length > 0 ? { ...plate, amps: { low: 117, high: 233 } } : {},
    }));
    server.on(`PATCH /api/jobs/${j.id}`, (a: Asked) => {
      plate = (a.body as { plate: object }).plate;
      return { ...j, revision: j.revision + 1 };
    });
    showInJob(<Complaint />, { job: j });
    await userEvent.type(await screen.findByRole("textbox", { name: "Power" }), "1.4 kW");
    await userEvent.type(screen.getByRole("textbox", { name: "Voltage" }), "12 V{Enter}");
    expect(await screen.findByText(/it takes 117 to 233 A by its plate/)).toBeTruthy();
    expect(plate).toEqual({ power: "1.4 kW", voltage: "12 V", current: "", speed: "" });
  });

  it("takes a value of this vehicle with its unit, and says why one is refused", async () => {
    server.on(`GET /api/jobs/${j.id}/settings`, settings);
    showInJob(<Complaint />, { job: j });
    await screen.findByRole("heading", { name: "What is known of this machine" });
    await choose("Another value of this vehicle (manual, measured good)", "pulls in");
    const value = await screen.findByRole("textbox", { name: "Value" });
    server.on(
      `PATCH /api/jobs/${j.id}`,
      new Refusal(422, "With this value a good motor would stand still: measure it again."),
    );
    await userEvent.type(value, "60{Enter}");
    expect(await screen.findByText(/a good motor would stand still/)).toBeTruthy();
    expect((value as HTMLInputElement).value).toBe("60");
    expect(server.got("PATCH", j.id).at(-1)!.body).toEqual({
      parameter: { name: expect.stringMatching(/\.pull_in$/) as string, value: "60" },
    });
  });

  it("can be read and not changed by who may only read", async () => {
    showInJob(<Complaint />, { job: j, mayWrite: false });
    expect(await screen.findByRole("textbox", { name: "What does it do, or not do?" })).toHaveProperty(
      "disabled",
      true,
    );
    expect(screen.queryByRole("button", { name: "Read and understood" })).toBeNull();
  });
});

describe("quick checks", () => {
  it("come in the adviser's order, count at once, and are taken back by a second touch", async () => {
    const j = job();
    const o = circuit().observations.find((x) => x.id === "lamps_dim")!;
    j.looks = [{ observe: o.id, state: "crank", minutes: 0.5, people: 1, bits: 0.8 }];
    j.evidence = j.evidence.filter((e) => e.observe !== o.id);
    server.on("GET /api/board", []);
    const sent: unknown[] = [];
    server.on(`POST /api/jobs/${j.id}/evidence`, (a: Asked) => {
      const [e] = (a.body as { evidence: Job["evidence"] }).evidence;
      sent.push(e);
      j.evidence.push(e!);
      j.revision++;
      return structuredClone(j);
    });
    server.on(`POST /api/jobs/${j.id}/evidence/*/strike`, () => {
      j.evidence.at(-1)!.struck = true;
      j.revision++;
      return structuredClone(j);
    });
    showInJob(<Checks />, { job: j });
    const card = (await screen.findByRole("heading", { name: o.question })).closest("li")!;
    expect(card.textContent).toContain("most telling now");
    const yes = o.outcomes.find((x) => x.id === "yes")!;
    await userEvent.click(within(card).getByRole("button", { name: new RegExp(`^${yes.label}`) }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]).toMatchObject({ observe: "lamps_dim", outcome: "yes", state: "crank" });
    const on = await screen.findByRole("button", { name: `✓ ${yes.label}`, pressed: true });
    await userEvent.click(on);
    await waitFor(() => expect(server.got("POST", "/strike")).toHaveLength(1));
    expect(sent).toHaveLength(1);
  });
});

describe("the trainer", () => {
  beforeEach(() => {
    server.on("GET /api/training", training);
    server.on("GET /api/circuits", [circuitFile.circuit]);
  });

  it("starts an exercise by one touch, under an id of its own", async () => {
    server.on("POST /api/training/attempts", {});
    show(<Training />);
    const x = training.courses[0]!.exercises[0]!;
    await userEvent.click(await screen.findByRole("button", { name: new RegExp(x.title) }));
    await waitFor(() => expect(here).toMatch(/^\/training\/[0-9a-f-]{36}$/));
    const b = server.got("POST", "/attempts")[0]!.body as { id: string; exercise: string };
    expect(b.exercise).toBe(x.id);
    expect(here.endsWith(b.id)).toBe(true);
  });

  it("gives the same machine for the same number, and says why one cannot be started", async () => {
    server.on("POST /api/training/attempts", new Refusal(422, "This machine has no such fault."));
    show(<Training />);
    await userEvent.type(await screen.findByRole("spinbutton", { name: "Number of the machine" }), "407");
    await userEvent.click(screen.getByRole("button", { name: "Start" }));
    expect(await screen.findByText("This machine has no such fault.")).toBeTruthy();
    expect(server.got("POST", "/attempts")[0]!.body).toMatchObject({
      circuit: "starter",
      seed: 407,
      count: 1,
    });
    expect(here).toBe("/");
  });
});

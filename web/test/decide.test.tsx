// @vitest-environment jsdom
import { Refusal, server, type Asked } from "./server";
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { Job, OptionsView, ProveView, RepairView } from "../src/api/client";
import Decide from "../src/decide/Decide";
import Prove from "../src/prove/Prove";
import compareFile from "./fixtures/compare.json";
import proofFile from "./fixtures/proof.json";
import workFile from "./fixtures/work.json";
import { here, job, showInJob } from "./page";

/** The job with a verdict on its ground cable. */
function decided(): Job {
  const j = job();
  Object.assign(j.diagnosis.verdict, {
    status: "isolated",
    station: "gnd_cable",
    probability: 0.97,
    says: "The ground cable is at fault.",
  });
  return j;
}

describe("repair or replace", () => {
  let view: OptionsView;
  beforeEach(() => {
    localStorage.clear();
    view = structuredClone(compareFile);
    server.on("POST /api/jobs/*/compare", () => view);
    server.on("GET /api/jobs/*/terms", { wishes: {}, with: {} });
    server.on("PUT /api/jobs/*/terms", (a: Asked) => a.body);
    server.on("GET /api/jobs/*/costs", []);
    server.on("GET /api/board", []);
  });
  const open = async (label: string) =>
    userEvent.click(await screen.findByRole("button", { name: new RegExp("^" + label.slice(0, 24)) }));
  const plan = (id: string) => view.options.find((o) => o.id === id)!;

  it("puts the cheapest by expected cost first and says what would have to be so for the next to win", async () => {
    showInJob(<Decide />, { job: decided() });
    await screen.findByRole("heading", { name: view.says });
    const rows = [...document.querySelectorAll(".option-row")];
    expect(rows.map((r) => r.querySelector(".option-name b")!.textContent)).toEqual(
      view.options.map((o) => o.label),
    );
    expect(rows[0]!.className).toContain("best");
    expect(rows.filter((r) => r.className.includes("best"))).toHaveLength(1);
    for (const b of view.break_evens) expect(screen.getByText(b.says)).toBeTruthy();
  });

  it("shows what each plan costs by how long the machine stays, the numbers one touch away", async () => {
    showInJob(<Decide />, { job: decided() });
    const picture = await screen.findByRole("heading", { name: /how long the machine stays/ });
    const card = picture.closest("div")!.parentElement!;
    await userEvent.click(within(card).getByRole("button", { name: "Numbers" }));
    const { years, plans } = view.over_years;
    expect(within(card).getAllByRole("row")).toHaveLength(years.length + 1);
    for (const p of plans) expect(within(card).getByRole("columnheader", { name: p.label })).toBeTruthy();
    expect(within(card).getByRole("rowheader", { name: "4 years" })).toBeTruthy();
  });

  it("asks anew with the workshop's own figures, and remembers them for the next job", async () => {
    const page = showInJob(<Decide />, { job: decided() });
    await screen.findByRole("heading", { name: view.says });
    await userEvent.click(screen.getByText(/^Reckoned with 58 an hour/));
    const rate = screen.getByLabelText("An hour of labour costs");
    await userEvent.clear(rate);
    await userEvent.type(rate, "75");
    await waitFor(() =>
      expect((server.got("POST", "/compare").at(-1)!.body as { terms: object }).terms).toMatchObject({
        hour_rate: 75,
      }),
    );
    page.unmount();
    showInJob(<Decide />, { job: decided() });
    await waitFor(() =>
      expect((server.got("POST", "/compare").at(-1)!.body as { terms: object }).terms).toMatchObject({
        hour_rate: 75,
        loss_per_day: 25,
      }),
    );
  });

  it("keeps what the customer wants with the job, asks with it, and says what it rules out", async () => {
    view.ruled = "What the customer wants rules out: a new cable (costs 90, more than the limit of 60).";
    showInJob(<Decide />, { job: decided() });
    await userEvent.type(await screen.findByLabelText("Not more than"), "60");
    expect(await screen.findByText(view.ruled)).toBeTruthy();
    await waitFor(() =>
      expect(server.got("PUT", "/terms").at(-1)?.body).toMatchObject({ wishes: { most_cost: 60 } }),
    );
    await waitFor(() =>
      expect(server.got("POST", "/compare").at(-1)!.body).toMatchObject({ wishes: { most_cost: 60 } }),
    );
  });

  it("asks about several parts at once", async () => {
    showInJob(<Decide />, { job: decided() });
    const other = view.questions.find((q) => !q.asked)!;
    await userEvent.click(await screen.findByRole("button", { name: new RegExp("^" + other.label) }));
    const asked = view.questions.find((q) => q.asked)!;
    await waitFor(() =>
      expect(server.got("POST", "/compare").at(-1)!.body).toMatchObject({
        stations: [asked.station, other.station],
      }),
    );
  });

  it("says why a chance is low: what the plan does not cure, and what may be behind it", async () => {
    const o = plan("repair");
    o.cures_this = 0.38;
    o.behind = 0.08;
    o.misses = [{ fault: o.cures[0]!, probability: 0.61 }];
    showInJob(<Decide />, { job: decided() });
    await open(o.label);
    const row = screen.getByText(/^It cures what is wrong here/);
    expect(row.textContent).toContain("38 %");
    expect(row.textContent).toContain("It does not cure: ");
    expect(row.textContent).toContain("(61 %)");
    expect(row.textContent).toContain("Something else may be behind it: 8 %");
  });

  it("records who chose what and why, once", async () => {
    const j = decided();
    server.on("POST /api/jobs/*/decisions", (a: Asked) => {
      const b = a.body as { id: string; who: string; reason: string };
      j.work.push({ ...(workFile as RepairView[])[0]!, id: b.id, who: b.who, reason: b.reason });
      j.revision++;
      return structuredClone(j);
    });
    showInJob(<Decide />, { job: j });
    const o = plan("repair");
    await open(o.label);
    const form = screen.getByRole("form", { name: `Choose: ${o.label}` });
    await userEvent.type(
      within(form).getByRole("textbox", { name: "Name of who decided" }),
      "orchard office",
    );
    await userEvent.type(within(form).getByRole("textbox", { name: "Reason" }), "needed on Friday{Enter}");
    await waitFor(() => expect(server.got("POST", "/decisions")).toHaveLength(1));
    expect(server.got("POST", "/decisions")[0]!.body).toMatchObject({
      option: "repair",
      stations: ["gnd_cable"],
      by: "customer",
      who: "orchard office",
      reason: "needed on Friday",
      price: Math.round((o.parts + o.labour) * 100) / 100,
    });
    expect(
      await screen.findByText(/chosen by the customer \(orchard office\): needed on Friday/),
    ).toBeTruthy();
    // What comes next is the work, with words that can be typed over.
    expect(screen.getByRole("heading", { name: "Do what was chosen" })).toBeTruthy();
    expect(screen.getByRole<HTMLInputElement>("textbox", { name: "What was done" }).value).toBe(
      (workFile as RepairView[])[0]!.label,
    );
  });

  it("sets no veto aside without a reason, and offers none that is dangerous", async () => {
    const [replace, repair] = [plan("replace"), plan("repair")];
    repair.veto = { reason: "the insulation is burnt", dangerous: false, set_aside: false };
    replace.veto = { reason: "it lies near fuel", dangerous: true, set_aside: false };
    showInJob(<Decide />, { job: decided() });
    await open(replace.label);
    expect(screen.queryByRole("button", { name: "Choose this" })).toBeNull();
    await open(repair.label);
    const choose = screen.getByRole("button", { name: "Choose this" });
    expect(choose).toHaveProperty("disabled", true);
    await userEvent.type(
      screen.getByRole("textbox", { name: "Why it is chosen all the same" }),
      "seen by Wanda",
    );
    expect(choose).toHaveProperty("disabled", false);
  });

  it("keeps a second repair apart from the first, and words it until it is signed", async () => {
    const j = decided();
    const [r] = structuredClone(workFile) as RepairView[];
    j.work = [
      { ...r!, id: "a", status: "failed", what: "cleaned", proof: "Not good: still slow. Jory, 3 May 2026." },
      { ...r!, id: "b", status: "done", parts: "Starter motor", what: "new brushes" },
    ];
    server.on("PUT /api/jobs/*/repairs/*", (a: Asked) => {
      j.work[1]!.what = (a.body as { what: string }).what;
      return structuredClone(j);
    });
    showInJob(<Decide />, { job: j });
    await screen.findByRole("heading", { name: "Prove what was done" });
    expect(screen.getByText("Not good: still slow. Jory, 3 May 2026.")).toBeTruthy();
    const what = screen.getByRole("textbox", { name: "What was done: starter motor" });
    await userEvent.type(what, ", springs{Enter}");
    await waitFor(() => expect(server.got("PUT", "/repairs/b")).toHaveLength(1));
    expect(server.got("PUT", "/repairs/b")[0]!.body).toEqual({ what: "new brushes, springs" });
  });

  it("has nothing to decide before there is something to decide on", async () => {
    const j = job();
    j.evidence = [];
    showInJob(<Decide />, { job: j });
    await screen.findByRole("heading", { name: "Nothing to decide yet" });
    await userEvent.click(screen.getByRole("link", { name: "Back to measuring" }));
    expect(here).toMatch(/measure$/);
    expect(server.got("POST", "/compare")).toHaveLength(0);
  });

  it("says how sure it is where it is not", async () => {
    view.sure = 0.6;
    showInJob(<Decide />, { job: job() });
    expect((await screen.findByText(/^Only .+ sure of the/)).textContent).toContain("60 %");
  });
});

describe("proving it", () => {
  let v: ProveView;
  beforeEach(() => {
    v = structuredClone(proofFile) as unknown as ProveView;
    server.on("GET /api/jobs/*/proof", () => v);
    server.on("GET /api/board", []);
  });

  it("asks for the work first, and then for the same readings as before, beside their good band", async () => {
    const proof = v;
    v = { ...v, repairs: [], open: false, todo: structuredClone(workFile)[0] as RepairView };
    const page = showInJob(<Prove />);
    await screen.findByRole("heading", { name: "The work is not recorded yet" });
    expect(screen.getByRole("button", { name: "The work is done" })).toBeTruthy();
    expect(screen.queryByRole("textbox", { name: /^After: / })).toBeNull();
    page.unmount();
    v = proof;
    showInJob(<Prove />);
    await screen.findByRole("heading", { name: `Prove the battery: ${v.checks.length} checks to take` });
    await screen.findAllByRole("textbox", { name: /^After: / });
    const c = v.checks.find((x) => x.before_says !== "" && x.measure)!;
    expect(screen.getByText(c.before_says)).toBeTruthy();
    expect(screen.getByText(c.good_says)).toBeTruthy();
    expect(screen.queryByRole("button", { name: "The work is done" })).toBeNull();
  });

  it("takes a reading where the check stands, as evidence of the same places", async () => {
    server.on("POST /api/jobs/*/evidence", () => job());
    showInJob(<Prove />);
    const c = v.checks.find((x) => x.measure === "voltage")!;
    await userEvent.type(await screen.findByRole("textbox", { name: `After: ${c.label}` }), "11.8{Enter}");
    await waitFor(() => expect(server.got("POST", "/evidence")).toHaveLength(1));
    expect((server.got("POST", "/evidence")[0]!.body as { evidence: object[] }).evidence[0]).toMatchObject({
      measure: "voltage",
      state: c.state,
      from: c.from,
      to: c.to,
      value: "11.8",
    });
  });

  it("cannot be signed as passed while something is missing or out of its band", async () => {
    const page = showInJob(<Prove />);
    const passed = await screen.findByRole("button", { name: "✓ Passed" });
    expect(passed).toHaveProperty("disabled", true);
    expect(screen.getByText(/^Still missing: /).textContent).toContain(v.missing[0]!);
    expect(screen.getByRole("button", { name: "✕ Failed" })).toHaveProperty("disabled", true);
    await userEvent.type(screen.getByRole("textbox", { name: "Remark" }), "still slow");
    expect(screen.getByRole("button", { name: "✕ Failed" })).toHaveProperty("disabled", false);
    page.unmount();
    v.missing = [];
    v.failed = true;
    showInJob(<Prove />);
    await screen.findByRole("heading", { name: "A check is out of its band: the battery is not proved" });
    expect(screen.getByRole("button", { name: "✓ Passed" })).toHaveProperty("disabled", true);
  });

  it("is signed once with a name, and says so", async () => {
    v.missing = [];
    for (const c of v.checks) Object.assign(c, { passed: true, after_says: "good" });
    server.on("POST /api/jobs/*/proof", (a: Asked) => {
      const b = a.body as { result: string; signed: string };
      v.open = false;
      v.records = [
        {
          ...b,
          at: new Date().toISOString(),
          counter: "",
          remark: "",
          by: "Jory",
          says: "Proved good. Jory.",
          checks: [],
          ticks: [],
        },
      ];
      return structuredClone(v);
    });
    showInJob(<Prove />);
    await screen.findByRole("heading", { name: "All checks are good: tick and sign" });
    const name = screen.getByRole("textbox", { name: "Name" });
    expect((name as HTMLInputElement).value).toBe("Jory");
    await userEvent.click(screen.getByRole("button", { name: "✓ Passed" }));
    await screen.findByRole("heading", { name: "✓ Proved good: battery" });
    expect(server.got("POST", "/proof")).toHaveLength(1);
    expect(server.got("POST", "/proof")[0]!.body).toMatchObject({ result: "passed", signed: "Jory" });
    expect(screen.getByRole("link", { name: "Print the report" })).toBeTruthy();
  });

  it("says what was refused and loses nothing that was typed", async () => {
    server.on("POST /api/jobs/*/proof", new Refusal(409, "Four things of the strip-down are not back."));
    showInJob(<Prove />);
    await userEvent.type(await screen.findByRole("textbox", { name: "Remark" }), "clock to be set");
    await userEvent.click(screen.getByRole("button", { name: "Accept, with the remark" }));
    expect(await screen.findByText("Four things of the strip-down are not back.")).toBeTruthy();
    expect(screen.getByRole<HTMLInputElement>("textbox", { name: "Remark" }).value).toBe("clock to be set");
  });
});

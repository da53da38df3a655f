// @vitest-environment jsdom
import { Refusal, server, type Asked } from "./server";
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { Job, OptionsView, ProveView } from "../src/api/client";
import Decide from "../src/decide/Decide";
import Prove from "../src/prove/Prove";
import compareFile from "./fixtures/compare.json";
import proofFile from "./fixtures/proof.json";
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
    server.on("GET /api/jobs/*/costs", null);
    server.on("GET /api/board", []);
  });

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

  it("asks anew with the workshop's own figures, and remembers them for the next job", async () => {
    const page = showInJob(<Decide />, { job: decided() });
    await screen.findByRole("heading", { name: view.says });
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

  it("records who chose what and why, once", async () => {
    const j = decided();
    server.on("POST /api/jobs/*/decisions", (a: Asked) => {
      j.decisions.push({ ...(a.body as Job["decisions"][0]), at: new Date().toISOString() });
      j.revision++;
      return structuredClone(j);
    });
    showInJob(<Decide />, { job: j });
    await screen.findByRole("heading", { name: view.says });
    const options = screen.getByRole("radiogroup", { name: "Option" });
    const repair = view.options.find((o) => o.id === "repair")!;
    await userEvent.click(within(options).getByRole("radio", { name: repair.kind }));
    await userEvent.type(screen.getByRole("textbox", { name: "Name of who decided" }), "orchard office");
    await userEvent.type(screen.getByRole("textbox", { name: "Reason" }), "needed on Friday");
    await userEvent.click(screen.getByRole("button", { name: "Record the decision" }));
    await waitFor(() => expect(server.got("POST", "/decisions")).toHaveLength(1));
    expect(server.got("POST", "/decisions")[0]!.body).toMatchObject({
      option: "repair",
      station: "gnd_cable",
      by: "customer",
      who: "orchard office",
      reason: "needed on Friday",
      expected: repair.expected,
      price: Math.round((repair.parts + repair.labour) * 100) / 100,
    });
    expect(
      await screen.findByText(/chosen by the customer \(orchard office\): needed on Friday/),
    ).toBeTruthy();
  });

  it("sets no veto aside without a reason, and none that is dangerous at all", async () => {
    const [replace, repair] = ["replace", "repair"].map((id) => view.options.find((o) => o.id === id)!);
    repair!.veto = { reason: "the insulation is burnt", dangerous: false, set_aside: false };
    replace!.veto = { reason: "it lies near fuel", dangerous: true, set_aside: false };
    showInJob(<Decide />, { job: decided() });
    await screen.findByRole("heading", { name: view.says });
    const options = screen.getByRole("radiogroup", { name: "Option" });
    expect(within(options).getByRole("radio", { name: replace!.kind })).toHaveProperty("disabled", true);
    await userEvent.click(within(options).getByRole("radio", { name: repair!.kind }));
    const record = screen.getByRole("button", { name: "Record the decision" });
    expect(record).toHaveProperty("disabled", true);
    await userEvent.type(screen.getByRole("textbox", { name: "Why the veto is set aside" }), "seen by Wanda");
    expect(record).toHaveProperty("disabled", false);
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
    const j = job();
    showInJob(<Decide />, { job: j });
    expect((await screen.findByText(/^Only .+ sure of the/)).textContent).toContain("%");
  });
});

describe("proving it", () => {
  let v: ProveView;
  beforeEach(() => {
    v = structuredClone(proofFile);
    server.on("GET /api/jobs/*/proof", () => v);
    server.on("GET /api/board", []);
  });

  it("asks for the work first, and then for the same readings as before, beside their good band", async () => {
    const page = showInJob(<Prove />);
    await screen.findByRole("heading", { name: `Prove the battery: ${v.checks.length} checks to take` });
    expect(screen.getByRole("button", { name: "The work is done" })).toBeTruthy();
    expect(screen.queryByRole("textbox", { name: /^After: / })).toBeNull();
    expect(screen.getByText("5.59 V")).toBeTruthy();
    expect(screen.getByText("11.09 V to 12.18 V")).toBeTruthy();
    page.unmount();
    v.repaired = true;
    showInJob(<Prove />);
    await screen.findAllByRole("textbox", { name: /^After: / });
    expect(screen.queryByRole("button", { name: "The work is done" })).toBeNull();
  });

  it("takes a reading where the check stands, as evidence of the same places", async () => {
    v.repaired = true;
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
    v.repaired = true;
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
    v.repaired = true;
    v.missing = [];
    for (const c of v.checks) Object.assign(c, { passed: true, after_says: "good" });
    server.on("POST /api/jobs/*/proof", (a: Asked) => {
      const b = a.body as { result: string; signed: string };
      v.records = [{ ...b, at: new Date().toISOString(), counter: "", remark: "", by: "Jory" }];
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
    v.repaired = true;
    server.on("POST /api/jobs/*/proof", new Refusal(409, "Four things of the strip-down are not back."));
    showInJob(<Prove />);
    await userEvent.type(await screen.findByRole("textbox", { name: "Remark" }), "clock to be set");
    await userEvent.click(screen.getByRole("button", { name: "Passed, with the remark" }));
    expect(await screen.findByText("Four things of the strip-down are not back.")).toBeTruthy();
    expect(screen.getByRole<HTMLInputElement>("textbox", { name: "Remark" }).value).toBe("clock to be set");
  });
});

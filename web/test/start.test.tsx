// @vitest-environment jsdom
import { Refusal, server, type Asked } from "./server";
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Row } from "../src/api/client";
import Board from "../src/board/Board";
import { Boundary } from "../src/app/Boundary";
import { useKeys } from "../src/shared/hooks";
import Start from "../src/start/Start";
import board from "./fixtures/board.json";
import circuitFile from "./fixtures/circuit.json";
import intake from "./fixtures/intake.json";
import machines from "./fixtures/machines.json";
import { here, job, show } from "./page";

describe("starting a job", () => {
  beforeEach(() => {
    server.on("GET /api/machines", machines);
    server.on("GET /api/circuits", [circuitFile.circuit]);
    server.on("POST /api/intake", (a: Asked) => {
      const { text, answers } = a.body as { text: string; answers: object };
      return text === "" && Object.keys(answers).length === 0 ? { fits: [], ask: [], heard: [] } : intake;
    });
    server.on("GET /api/board", []);
  });

  it("finds circuits from plain words, says why, and asks what would still tell them apart", async () => {
    show(<Start />);
    await userEvent.type(screen.getByRole("textbox", { name: "What does it do, or not do?" }), "heater fan");
    const first = await screen.findByRole("button", { name: new RegExp(intake.fits[0]!.title) });
    expect(first.textContent).toContain("you said “heater”");
    expect(screen.getByText(intake.ask[0]!.text)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: intake.ask[0]!.answers[0]!.label }));
    await waitFor(() =>
      expect((server.got("POST", "/intake").at(-1)!.body as { answers: object }).answers).toEqual({
        [intake.ask[0]!.id]: intake.ask[0]!.answers[0]!.id,
      }),
    );
  });

  it("opens the job at Measure by one touch, with the answers given on the way", async () => {
    const j = job();
    server.on("POST /api/jobs", () => j);
    show(<Start />);
    await userEvent.type(screen.getByRole("textbox", { name: "What does it do, or not do?" }), "heater fan");
    await userEvent.click(await screen.findByRole("button", { name: new RegExp(intake.fits[0]!.title) }));
    await waitFor(() => expect(here).toBe(`/jobs/${j.id}/measure`));
    expect(server.got("POST", "/jobs")).toHaveLength(1);
    expect(server.got("POST", "/jobs")[0]!.body).toMatchObject({
      circuit: intake.fits[0]!.circuit,
      complaint: "heater fan",
    });
  });

  it("leaves what was typed as it was typed: Enter and Tab take no proposal that was not gone to", async () => {
    show(<Start />);
    const field = screen.getByRole<HTMLInputElement>("combobox", { name: /Which machine/ });
    const known = machines[0]!.name;
    await userEvent.type(field, known.slice(0, 3));
    await userEvent.keyboard("{Enter}");
    expect(field.value).toBe(known.slice(0, 3));
    await userEvent.type(field, known.slice(3, 5));
    await userEvent.tab();
    expect(field.value).toBe(known.slice(0, 5));
    await userEvent.click(field);
    await userEvent.type(field, known.slice(5, 6));
    await userEvent.click(await screen.findByText(`${known} · ${machines[0]!.place}`));
    expect(field.value).toBe(known);
  });

  it("knows a machine by its name, and asks of a new one what it is", async () => {
    server.on("POST /api/jobs", () => job());
    show(<Start />);
    const field = screen.getByRole("combobox", { name: /Which machine/ });
    await userEvent.type(field, "Reed cutter");
    expect(await screen.findByText("A new machine. What type is it?")).toBeTruthy();
    await userEvent.clear(field);
    await userEvent.type(field, machines[0]!.name);
    await waitFor(() => expect(screen.queryByText("A new machine. What type is it?")).toBeNull());
    await userEvent.click(await screen.findByRole("button", { name: new RegExp(circuitFile.circuit.title) }));
    await waitFor(() => expect(server.got("POST", "/jobs")).toHaveLength(1));
    expect(server.got("POST", "/jobs")[0]!.body).toMatchObject({ machine_id: machines[0]!.id });
  });

  it("sends the same id again when the first try failed: one job, however often it is touched", async () => {
    let tries = 0;
    server.on("POST /api/jobs", () =>
      ++tries === 1 ? new Refusal(503, "The database does not answer. Try again.") : job(),
    );
    show(<Start />);
    const touch = async () =>
      userEvent.click(await screen.findByRole("button", { name: new RegExp(circuitFile.circuit.title) }));
    await touch();
    expect(await screen.findByText("The database does not answer. Try again.")).toBeTruthy();
    await touch();
    await waitFor(() => expect(server.got("POST", "/jobs")).toHaveLength(2));
    const [a, b] = server.got("POST", "/jobs").map((x) => (x.body as { id: string }).id);
    expect(a).toBe(b);
  });
});

describe("the board", () => {
  beforeEach(() => server.on("GET /api/board", board));

  it("shows what is overdue on top, what it waits for, and finds by any words", async () => {
    const rows: Row[] = structuredClone(board) as Row[];
    const late = rows[3]!;
    Object.assign(late, { group: "overdue", bench: "bench 2", person: "Jory" });
    late.waits = [{ id: "w", kind: "parts", note: "brush set", until: "2026-11-26T00:00:00Z", by: "Jory" }];
    server.on("GET /api/board", [late, ...rows.filter((r) => r !== late)]);
    show(<Board />);
    const seen = () => [...document.querySelectorAll(".jobrow")].map((r) => r.textContent ?? "");
    await waitFor(() => expect(seen()).toHaveLength(board.length));
    expect(document.querySelectorAll(".board-group")[0]!.textContent).toContain("Overdue 1");
    expect(seen()[0]).toContain(late.machine);
    expect(seen()[0]).toContain("Overdue: parts (brush set), Thursday 26 November");
    expect(seen()[0]).toContain("bench 2 · Jory");
    await userEvent.keyboard("/");
    await userEvent.keyboard("brush set");
    await waitFor(() => expect(seen()).toHaveLength(1));
  });

  it("puts a job on a bench, gives it to a person and says what it waits for, once", async () => {
    const id = board[0]!.id;
    const v = { bench: "", person: "", name: "", waits: [] as object[], people: [{ id: "p1", name: "Pip" }] };
    server.on(`GET /api/jobs/${id}/schedule`, () => v);
    server.on(`PUT /api/jobs/${id}/schedule`, (a: Asked) => Object.assign(v, a.body));
    server.on(`PUT /api/jobs/${id}/waits/*`, (a: Asked) => {
      v.waits = [{ ...(a.body as object), id: a.path.split("/").at(-1), by: "Jory" }];
      return structuredClone(v);
    });
    show(<Board />);
    await userEvent.click(
      await screen.findByRole("button", { name: `Waits and bench: ${board[0]!.machine}` }),
    );
    await userEvent.click(await screen.findByRole("button", { name: "A cold start" }));
    await userEvent.click(screen.getByRole("button", { name: "It waits" }));
    await waitFor(() => expect(screen.getByRole("button", { name: "It is there" })).toBeTruthy());
    const put = server.asked.filter((a) => a.method === "PUT" && a.path.includes("/waits/"));
    expect(put).toHaveLength(1);
    expect(put[0]!.body).toMatchObject({ kind: "cold_start", note: "" });
    const until = new Date((put[0]!.body as { until: string }).until);
    expect(until.getTime()).toBeGreaterThan(Date.now());
    expect(until.getHours()).toBe(7);
    await userEvent.type(screen.getByRole("textbox", { name: "Bench" }), "jetty{Enter}");
    await waitFor(() => expect(v.bench).toBe("jetty"));
  });

  it("begins a job by one key, but not while somebody types", async () => {
    show(<Board />);
    await userEvent.type(await screen.findByRole("textbox", { name: "Search jobs" }), "van n");
    expect(here).toBe("/");
    (document.activeElement as HTMLElement).blur();
    await userEvent.keyboard("n");
    expect(here).toBe("/start");
  });

  it("offers no work to who may only read", async () => {
    show(<Board />, { mayWrite: false });
    await screen.findByText("Orchard tractor 3");
    expect(screen.queryByRole("button", { name: /Start a job/ })).toBeNull();
  });
});

describe("keys", () => {
  function Counter() {
    const [n, setN] = useState(0);
    useKeys((k) => {
      if (k !== "x") return false;
      setN(n + 1);
      return true;
    });
    return <output>{n}</output>;
  }
  const count = () => screen.getByRole("status").textContent;

  it("count on the page, not with a modifier, in a field or under a dialog", async () => {
    const page = show(
      <>
        <Counter />
        <input aria-label="field" />
      </>,
    );
    await userEvent.keyboard("x");
    expect(count()).toBe("1");
    await userEvent.keyboard("{Control>}x{/Control}y");
    await userEvent.type(screen.getByRole("textbox"), "x");
    expect(count()).toBe("1");
    (document.activeElement as HTMLElement).blur();
    page.rerender(<div role="dialog" />);
  });
});

describe("a view that fails", () => {
  it("says so and leaves a way out, and takes nothing else with it", () => {
    const quiet = vi.spyOn(console, "error").mockImplementation(() => {});
    const Broken = () => {
      throw new Error("no such picture");
    };
    show(
      <>
        <p>the bar</p>
        <Boundary>
          <Broken />
        </Boundary>
      </>,
    );
    expect(screen.getByRole("alert").textContent).toContain("What you entered is kept");
    expect(screen.getByRole("button", { name: "Open it again" })).toBeTruthy();
    expect(screen.getByText("the bar")).toBeTruthy();
    quiet.mockRestore();
  });
});

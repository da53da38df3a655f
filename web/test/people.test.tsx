// @vitest-environment jsdom
import { Refusal, server, type Asked } from "./server";
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { PeopleView, Workshop } from "../src/api/client";
import { First } from "../src/first/First";
import { Join } from "../src/people/Join";
import People from "../src/people/People";
import { SetUp } from "../src/people/SetUp";
import { Shift } from "../src/people/Shift";
import You from "../src/people/You";
import Settings from "../src/settings/Settings";
import { show } from "./page";

const view = (): PeopleView => ({
  people: [
    { id: "1", login: "wanda", name: "Wanda", role: "owner", suspended: false, ready: true },
    { id: "2", login: "pip", name: "Pip", role: "trainee", suspended: true, ready: true },
  ],
  roles: [
    { id: "owner", name: "owner", says: "Looks after all." },
    { id: "technician", name: "technician", says: "Measures." },
    { id: "trainee", name: "apprentice", says: "Learns." },
  ],
  devices: [],
});

describe("people", () => {
  beforeEach(() => {
    server.on("GET /api/people", view());
    server.on("GET /api/record", [
      { id: "a", at: "2026-11-28T08:00:00Z", by: "Wanda", kind: "people", says: "Suspended Pip." },
    ]);
  });

  it("are added by name alone, and the link stands there as address and as picture", async () => {
    server.on("POST /api/people", (a: Asked) => {
      const p = a.body as { id: string; login: string; name: string; role: "technician" };
      return { ...view(), people: [...view().people, { ...p, suspended: false, ready: false }] };
    });
    server.on("POST /api/people/*/invitation", { path: "/join#abc", expires: "2026-12-01T08:00:00Z" });
    show(<People />, { at: "/people" });
    await userEvent.type(await screen.findByLabelText(/Name, as on papers/), "Nell Sorrel");
    await userEvent.click(screen.getByRole("button", { name: "Add and show the link" }));
    const card = await screen.findByRole("status", { name: "Sign-in link for Nell Sorrel" });
    expect(within(card).getByText(/\/join#abc$/)).toBeTruthy();
    expect(card.querySelector("canvas, svg")).toBeTruthy();
    expect(server.got("POST", "/people")[0]!.body).toMatchObject({ login: "nell", role: "technician" });
  });

  it("are let in again, and what was done stands in the record", async () => {
    server.on("PUT /api/people/2", view());
    show(<People />, { at: "/people" });
    const pip = await screen.findByRole("group", { name: "Pip" });
    expect(within(pip).queryByRole("button", { name: "Sign-in link" })).toBeNull();
    await userEvent.click(within(pip).getByRole("button", { name: "Let in again" }));
    await waitFor(() =>
      expect(server.got("PUT", "/people/2")[0]!.body).toEqual({
        name: "Pip",
        role: "trainee",
        suspended: false,
      }),
    );
    expect(await screen.findByText("Suspended Pip.")).toBeTruthy();
  });

  it("hear why they cannot be changed", async () => {
    server.on("PUT /api/people/2", new Refusal(409, "This is the last owner who can sign in."));
    show(<People />, { at: "/people" });
    const pip = await screen.findByRole("group", { name: "Pip" });
    await userEvent.click(within(pip).getByRole("button", { name: "Let in again" }));
    expect(await within(pip).findByRole("alert")).toHaveProperty(
      "textContent",
      expect.stringContaining("last owner"),
    );
  });
});

describe("the settings", () => {
  const now: Workshop = { name: "Orchard", hour_rate: 58, loss_per_day: 25, comeback: 60, revision: 3 };
  it("that somebody else changed meanwhile are not overwritten unseen, and nothing typed is lost", async () => {
    let kept: Workshop | undefined;
    server.on("GET /api/settings/workshop", { ...now, name: kept ? kept.name : "Orchard" });
    server.on("GET /api/backups", { on: false, files: 0, bytes: 0 });
    server.on("PUT /api/settings/workshop", (a: Asked) => {
      const v = a.body as Workshop;
      if (v.revision !== 4) return new Refusal(412, "Somebody else changed this meanwhile.");
      kept = v;
      return { ...v, revision: 5 };
    });
    show(<Settings />, { at: "/settings" });
    const name = await screen.findByLabelText("Name, as on papers");
    await userEvent.clear(name);
    await userEvent.type(name, "Landing stage");
    await userEvent.click(screen.getByRole("button", { name: "Keep" }));
    expect((await screen.findByRole("alert")).textContent).toContain("Somebody else");
    expect(name).toHaveProperty("value", "Landing stage");
    server.on("GET /api/settings/workshop", { ...now, name: "Theirs", revision: 4 });
    await userEvent.click(screen.getByRole("button", { name: "Keep mine over theirs" }));
    await waitFor(() => expect(kept).toMatchObject({ name: "Landing stage", revision: 4 }));
  });

  it("say how the backups stand, and that one failed", async () => {
    server.on("GET /api/settings/workshop", now);
    server.on("GET /api/backups", {
      on: true,
      files: 12,
      bytes: 34e6,
      folder: "/b",
      last: "2026-01-01T03:00:00Z",
      problem: "the disk is full",
    });
    show(<Settings />, { at: "/settings" });
    expect((await screen.findByRole("alert")).textContent).toContain("the disk is full");
    expect(await screen.findByText(/more than two days ago/)).toBeTruthy();
    expect(screen.getByText(/12 files, 34.0 MB/)).toBeTruthy();
  });
});

describe("coming in", () => {
  it("on a shared device is by name and PIN; a wrong one is said and taken out of the field", async () => {
    server.on("GET /api/shift", { device: "Tablet", people: [{ id: "1", name: "Wanda" }] });
    server.on("POST /api/shift", new Refusal(401, "This is not the PIN."));
    show(<Shift />);
    await userEvent.click(await screen.findByRole("button", { name: "Wanda" }));
    const pin = screen.getByLabelText("Wanda, your PIN");
    expect(screen.getByRole("button", { name: "Go on as Wanda" })).toHaveProperty("disabled", true);
    await userEvent.type(pin, "4072{Enter}");
    expect((await screen.findByRole("alert")).textContent).toContain("not the PIN");
    expect(pin).toHaveProperty("value", "");
  });

  it("by a link that was used says whom to ask", async () => {
    server.on("POST /api/invitation", new Refusal(410, "This link was used: ask the owner for a new one."));
    show(<Join />, { at: "/join" });
    expect((await screen.findByRole("alert")).textContent).toContain("ask the owner");
    expect(screen.queryByLabelText(/New password/)).toBeNull();
  });

  it("the first time asks for the code, and sends nothing before all is there", async () => {
    server.on("POST /api/setup", new Refusal(403, "This is not the code."));
    show(<SetUp />);
    const go = screen.getByRole("button", { name: "Set up and open" });
    expect(go).toHaveProperty("disabled", true);
    await userEvent.type(screen.getByLabelText(/^Code/), "abcd-2345");
    await userEvent.type(screen.getByLabelText("Name, as on papers"), "Orchard");
    await userEvent.type(screen.getByLabelText(/Your name/), "Wanda");
    await userEvent.type(screen.getByLabelText(/Short name/), "wanda");
    await userEvent.type(screen.getByLabelText(/New password/), "short");
    expect(screen.getByText(/5 to go/)).toBeTruthy();
    await userEvent.type(screen.getByLabelText(/New password/), " ladder seven");
    await userEvent.click(go);
    expect((await screen.findByRole("alert")).textContent).toContain("not the code");
    expect(server.got("POST", "/setup")[0]!.body).toMatchObject({
      login: "wanda",
      workshop: { name: "Orchard" },
    });
  });

  it("the first time takes a backup instead, once the code is there, and says what is wrong with another file", async () => {
    server.on("POST /api/setup/restore", new Refusal(422, "This file was not put back: it is no backup."));
    show(<SetUp />);
    const choose = screen.getByRole("button", { name: "Choose the backup" });
    expect(choose).toHaveProperty("disabled", true);
    await userEvent.type(screen.getByLabelText(/^Code/), "abcd-2345");
    expect(choose).toHaveProperty("disabled", false);
    await userEvent.upload(screen.getByLabelText("Backup file"), new File(["x"], "list.txt"));
    expect((await screen.findByRole("alert")).textContent).toContain("it is no backup");
    server.on("POST /api/setup/restore", { jobs: 12, people: 4 });
    await userEvent.upload(screen.getByLabelText("Backup file"), new File(["x"], "a.backup"));
    expect((await screen.findByRole("status")).textContent).toContain("12 jobs and 4 people");
  });

  it("leaves the old password and the new in the fields when they are refused", async () => {
    server.on("GET /api/session/places", []);
    server.on("PUT /api/session/password", new Refusal(422, "This is not your password of today."));
    show(<You />, { at: "/you" });
    await userEvent.type(screen.getByLabelText("Your password now"), "wrong");
    await userEvent.type(screen.getByLabelText(/New password/), "plum ladder seven");
    await userEvent.click(screen.getByRole("button", { name: "Change the password" }));
    expect((await screen.findByRole("alert")).textContent).toContain("not your password");
    expect(screen.getByLabelText(/New password/)).toHaveProperty("value", "plum ladder seven");
  });
});

describe("a new workshop's board", () => {
  const house = { named: true, people: 1, work: false, demo: false, may_demo: true };
  it("says what to do first, and nothing once there is work", async () => {
    server.on("GET /api/house", house);
    const { unmount } = show(<First />);
    expect(await screen.findByRole("button", { name: /start a job/ })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Load the demo" })).toBeNull(); // the owner's to load
    unmount();
    server.on("GET /api/house", { ...house, work: true, may_demo: false });
    show(<First />);
    await waitFor(() => expect(server.got("GET", "/house")).toHaveLength(2));
    expect(screen.queryByText("Where to begin")).toBeNull();
  });
});

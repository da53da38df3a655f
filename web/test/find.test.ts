import { describe, expect, it } from "vitest";
import { rank } from "../src/find/find";
import { keysAt, type Where } from "../src/app/keys";
import { does, wheres } from "../src/app/keyWords";
import { isAt, placesOf, placeTargets } from "../src/app/places";

const things = [
  { head: "Cider press lorry", rest: "Job One clunk, nothing turns" },
  { head: "Blink codes", rest: "Page controller flash" },
  { head: "Picking cart Teasel", rest: "Job lamp flashes, does not press on" },
  { head: "Bürstenhalter Möwe", rest: "Machine" },
];
const found = (text: string) => rank(text, things, (t) => t).map((t) => t.head);

describe("what is looked for", () => {
  it("is found by the beginning of a word before its middle, and in the name before what is beside it", () => {
    expect(found("press")).toEqual(["Cider press lorry", "Picking cart Teasel"]);
    expect(found("flash")).toEqual(["Blink codes", "Picking cart Teasel"]);
  });
  it("must fit every word, in any order", () => {
    expect(found("lorry cid")).toEqual(["Cider press lorry"]);
    expect(found("lorry teasel")).toEqual([]);
  });
  it("is found with letters left out, without accents, and everything where nothing is typed", () => {
    expect(found("blnk")).toEqual(["Blink codes"]);
    expect(found("mowe")).toEqual(["Bürstenhalter Möwe"]);
    expect(found("  ")).toHaveLength(things.length);
  });
});

describe("the pages", () => {
  it("are those of the role, each with its own key", () => {
    const all = placesOf({ mayManage: true });
    expect(placesOf({ mayManage: false }).map((p) => p.to)).not.toContain("/settings");
    expect(all.map((p) => p.to)).toContain("/settings");
    const keys = placeTargets({ mayManage: true }).map((t) => t.key);
    expect(new Set(keys).size).toBe(keys.length);
    expect(keys.every((k) => /^[a-z0-9]$/.test(k))).toBe(true);
  });
  it("say where one is, once", () => {
    const at = (path: string) =>
      placesOf({ mayManage: true })
        .filter((p) => isAt(p, path))
        .map((p) => p.label);
    expect(at("/jobs/7/measure")).toEqual(["Board"]);
    expect(at("/machines/7")).toEqual(["Machines"]);
    expect(at("/training/7")).toEqual(["Trainer"]);
  });
});

describe("the list of keys", () => {
  it("has each key once where it works", () => {
    for (const g of (Object.entries(wheres) as [Where, string][]).map(([where, title]) => ({
      title,
      keys: keysAt(where).map((k) => ({ ...k, what: does[k.id] })),
    }))) {
      expect(g.keys.length).toBeGreaterThan(0);
      const shown = g.keys.map((k) => k.shown);
      if (g.title !== "In the trainer") expect(new Set(shown).size).toBe(shown.length);
    }
  });
});

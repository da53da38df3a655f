import { describe, expect, it } from "vitest";
import type { PictureNode } from "../src/api/client";
import { judge, scaleFor, wrap } from "../src/measure/scale";

const node = (n: Partial<PictureNode>): PictureNode =>
  ({ id: "n", label: "n", place: "", low: 0, mid: 0, high: 0, ghost: 0, ...n }) as PictureNode;

describe("the scale of the current path", () => {
  it("holds every band, every reading and the healthy ghost, upside up", () => {
    const nodes = [node({ low: 9, high: 12.4, ghost: 12.2 }), node({ measured: 3.1, ghost: 11.9 })];
    const s = scaleFor(nodes, 10, 110, 0.5, false);
    for (const v of [9, 12.4, 12.2, 3.1, 11.9]) {
      expect(v).toBeGreaterThanOrEqual(s.low);
      expect(v).toBeLessThanOrEqual(s.high);
    }
    expect(s.y(12)).toBeLessThan(s.y(3));
    expect(s.y(1e9)).toBeGreaterThanOrEqual(10);
    expect(s.y(-1e9)).toBeLessThanOrEqual(110);
  });

  it("is never finer than asked, so that millivolts do not look like a fault", () => {
    const s = scaleFor([node({ measured: 0.01, ghost: 0.01 })], 0, 100, 0.5, true);
    expect(s.high - s.low).toBeGreaterThanOrEqual(0.5);
    expect(s.low).toBeLessThanOrEqual(0);
  });

  it("has few round ticks, and some picture where nothing is known", () => {
    for (const [low, high] of [
      [0, 0.3],
      [0, 12],
      [11, 12],
      [0, 48],
      [-50, 200],
    ] as const) {
      const s = scaleFor([node({ low, high, ghost: low })], 0, 100, 0.2, false);
      expect(s.ticks.length).toBeGreaterThan(1);
      expect(s.ticks.length).toBeLessThan(9);
    }
    expect(scaleFor([], 0, 100, 1, true).ticks.length).toBeGreaterThan(1);
  });
});

describe("the words under it", () => {
  it("breaks a label into two lines at most and loses nothing", () => {
    for (const label of ["Minus clamp", "Solenoid main contact", "Pinion, clutch and engine", "X"]) {
      const lines = wrap(label, 12);
      expect(lines.length).toBeLessThanOrEqual(2);
      expect(lines.join(" ")).toBe(label);
    }
  });

  it("judges a step by what may be lost in it", () => {
    expect(judge(undefined, 0.1)).toBe("unknown");
    expect(judge(0.05, 0.1)).toBe("good");
    expect(judge(0.1, 0.1)).toBe("near");
    expect(judge(0.13, 0.1)).toBe("bad");
    expect(judge(-0.13, 0.1)).toBe("bad");
    expect(judge(0.02, 0.01)).toBe("unknown"); // next to nothing flows: two counts decide nothing
  });
});

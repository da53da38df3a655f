import { expect, it } from "vitest";
import { columns, figures, stem } from "../src/trace/export";

it("names a saved trace after its file", () => {
  expect(stem("cider press.csv")).toBe("cider press");
  expect(stem("run.2.CSV")).toBe("run.2");
  expect(stem(".csv")).toBe("trace");
});

it("writes figures and columns that a spreadsheet reads back", () => {
  const text = figures({ mean_a: 86, says: 'even, "good"', weak_bars: [3, 7] } as unknown as Parameters<
    typeof figures
  >[0]);
  expect(text).toBe('name,value\nmean_a,86\nsays,"even, ""good"""\nweak_bars,3 7\n');
  expect(columns([{ t: 0, low: 1, high: 2 }])).toBe("t_s,low_a,high_a\n0,1,2\n");
});

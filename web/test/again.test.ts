import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { untilDone, waits } from "../src/offline/again";

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
});

test("what fails or throws is tried again until it is done, and then no more", async () => {
  const once = vi.fn<() => Promise<boolean>>();
  once.mockResolvedValueOnce(false).mockRejectedValueOnce(new Error("no answer")).mockResolvedValue(true);
  untilDone(once);
  expect(once).not.toHaveBeenCalled();
  for (const w of waits) await vi.advanceTimersByTimeAsync(w);
  expect(once).toHaveBeenCalledTimes(3);
});

test("who leaves the page is not followed by tries", async () => {
  const once = vi.fn<() => Promise<boolean>>().mockResolvedValue(false);
  const stop = untilDone(once);
  await vi.advanceTimersByTimeAsync(waits[0]!);
  stop();
  for (const w of waits) await vi.advanceTimersByTimeAsync(w);
  expect(once).toHaveBeenCalledTimes(1);
});

test("it is given up after the last wait", async () => {
  const once = vi.fn<() => Promise<boolean>>().mockResolvedValue(false);
  untilDone(once);
  for (const w of [...waits, ...waits]) await vi.advanceTimersByTimeAsync(w);
  expect(once).toHaveBeenCalledTimes(waits.length);
});

// How long a test waits for what it wants to see: one generous limit, that CORRIENTE_PATIENCE=4 multiplies on a busy
// machine. The same factor as the tests of the server and the browser take.
import { vi } from "vitest";

const factor = Math.max(1, Number(process.env.CORRIENTE_PATIENCE) || 1);

/** Milliseconds. */
export const limit = 60_000 * factor;

/** Looks until nothing is thrown. */
export const until = <T>(look: () => T | Promise<T>) => vi.waitFor(look, { timeout: limit, interval: 20 });

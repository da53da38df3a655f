import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

const factor = Math.max(1, Number(process.env.CORRIENTE_PATIENCE) || 1);

export default defineConfig({
  plugins: [react()],
  // A test ends by what it waits for, whose own limit is shorter.
  test: {
    dir: "test",
    setupFiles: "test/setup.ts",
    testTimeout: 180_000 * factor,
    hookTimeout: 180_000 * factor,
  },
});

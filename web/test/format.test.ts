import { describe, expect, it } from "vitest";
import { age, minutes, quantity, range, share } from "../src/shared/format";

describe("figures as a technician writes them", () => {
  it.each([
    [12.6, "voltage", "12.60 V"],
    [-0.04, "voltage", "-0.04 V"],
    [0.0123, "resistance", "12.3 mΩ"],
    [0.0995, "resistance", "0.10 Ω"],
    [0.3, "resistance", "0.30 Ω"],
    [9.994, "resistance", "9.99 Ω"],
    [9.996, "resistance", "10.0 Ω"],
    [99.94, "resistance", "99.9 Ω"],
    [99.96, "resistance", "100 Ω"],
    [4700, "resistance", "4.70 kΩ"],
    [1.2e6, "resistance", "1.20 MΩ"],
    [0, "resistance", "0 Ω"],
    [0.0004, "current", "0 A"],
    [0.23, "current", "230 mA"],
    [142.3, "current", "142 A"],
    [7.5e-6, "capacitance", "7.50 µF"],
    [49.96, "frequency", "50.0 Hz"],
  ])("%d in %s is %s", (v, m, want) => expect(quantity(v, m)).toBe(want));

  it("says a band once where both ends look alike, and its unit once where it is the same", () => {
    expect(range(12.601, 12.602, "voltage")).toBe("about 12.60 V");
    expect(range(11.2, 11.8, "voltage")).toBe("11.20 to 11.80 V");
    expect(range(0.05, 0.3, "resistance")).toBe("50.0 mΩ to 0.30 Ω");
  });

  it("is never certain", () => {
    expect(share(0)).toBe("under 1 %");
    expect(share(1)).toBe("over 99 %");
    expect(share(0.5)).toBe("50 %");
    expect(share(0.995)).toBe("over 99 %");
  });

  it("says times in words", () => {
    expect(minutes(0.3)).toBe("under a minute");
    expect(minutes(1.2)).toBe("1 minute");
    expect(minutes(4.6)).toBe("5 minutes");
    const now = Date.parse("2026-11-25T12:00:00Z");
    expect(age("2026-11-25T11:40:00Z", now)).toBe("just now");
    expect(age("2026-11-25T09:00:00Z", now)).toBe("3 h");
    expect(age("2026-11-24T09:00:00Z", now)).toBe("1 day");
    expect(age("2026-11-20T09:00:00Z", now)).toBe("5 days");
  });
});

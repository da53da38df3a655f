import { afterEach, describe, expect, it } from "vitest";
import examples from "../../core/unit/testdata/written.json";
import { fixed, inOurWriting, withUnit, writeLike, written } from "../src/shared/written";

afterEach(() => writeLike({}));

describe("figures", () => {
  it.each(examples)("are written as papers write them: $text", ({ text, imperial, comma }) => {
    expect(written(text)).toBe(text);
    expect(written(text, { imperial: true, comma: false })).toBe(imperial);
    expect(written(text, { imperial: false, comma: true })).toBe(comma);
  });

  it("of an answer are written so in its sentences, and what was typed stays as it was", () => {
    const answer = () => ({
      says: "0.30 Ω at 20 °C",
      lines: [{ label: "Run-out", text: "0.05 mm" }],
      steps: ["warm it to 80 °C"],
      value: "11.9",
      items: [{ id: "a", text: "2x 1.5 mm shim", entry: { torque: "45 Nm", what: "shim 1.5 mm" } }],
    });
    expect(inOurWriting(answer())).toEqual(answer());
    writeLike({ imperial: true, decimal_comma: true });
    expect(inOurWriting(answer())).toEqual({
      says: "0,30 Ω at 20 °C (68 °F)",
      lines: [{ label: "Run-out", text: "0,05 mm (0,002 in)" }],
      steps: ["warm it to 80 °C (176 °F)"],
      value: "11.9",
      items: [
        { id: "a", text: "2x 1.5 mm shim", entry: { torque: "45 Nm (33,2 lb ft)", what: "shim 1.5 mm" } },
      ],
    });
    expect(fixed(11.94, 1)).toBe("11,9");
  });

  it("typed bare are taken in the unit that stands beside the field", () => {
    expect(withUnit("68", "°C")).toBe("68");
    writeLike({ imperial: true });
    expect(withUnit("68", "°C")).toBe("68 °F");
    expect(withUnit("14", "mm²")).toBe("AWG 14");
    expect(withUnit("1/0", "mm²")).toBe("AWG 1/0");
    expect(withUnit("2.5 mm²", "mm²")).toBe("2.5 mm²");
    expect(withUnit("12.4", "V")).toBe("12.4");
  });
});

import { describe, expect, it } from "vitest";
import { shown, typedLength } from "./typed";

describe("a typed length", () => {
  it("keeps its unit, and its words while the value is that", () => {
    const typed = typedLength("1/16 in", "1.588");
    expect(typed).toEqual({ text: "1/16 in", kept: "1.588", unit: "in" });
    expect(shown("1.588", typed)).toBe("1/16 in");
    expect(shown("50.8", typed)).toBe("2 in");
    expect(shown("50", typed)).toBe("1.9685 in");
    expect(shown("12", typedLength('2"', "50.8"))).toBe('0.4724 "');
    expect(shown("1250", typedLength("2 m", "2000"))).toBe("1.25 m");
  });
  it("is in millimetres where no other unit was said, and names are no lengths", () => {
    expect(typedLength("50", "50")).toBeNull();
    expect(typedLength("50 mm", "50")).toBeNull();
    expect(typedLength("Bracket 2 in", "Bracket 2 in")).toBeNull();
    expect(shown("50", null)).toBe("50");
    expect(shown("A3", typedLength("2 in", "50.8"))).toBe("A3");
  });
});

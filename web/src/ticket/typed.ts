import { create } from "zustand";
import { persist } from "zustand/middleware";

/** Millimetres of the units in which lengths are typed. */
const UNITS: Readonly<Record<string, number>> = { mm: 1, cm: 10, m: 1000, in: 25.4, '"': 25.4, ft: 304.8, "'": 304.8, pt: 25.4 / 72 };
/** What a text with a unit of length ends in. */
export const ENDING = /(mm|cm|in|ft|pt|m|"|')\s*$/i;

/** What was typed into a field: its words, the value that was kept of them, and the unit that they end in. */
export interface Typed {
  text: string;
  kept: string;
  unit: string;
}

/** The unit that a typed length ends in; none for what is no length, or kept as it was typed. */
export function typedLength(text: string, kept: string): Typed | null {
  const unit = ENDING.exec(text.trim())?.[1]?.toLowerCase();
  return unit && unit !== "mm" && Number.isFinite(Number(kept)) && kept !== "" ? { text: text.trim(), kept, unit } : null;
}

/** A value, mm, in the unit that was typed last: as it was typed where it is still that, else to a hundredth of a millimetre. */
export function shown(value: string, typed: Typed | null | undefined): string {
  if (!typed) return value;
  if (value === typed.kept) return typed.text;
  const size = UNITS[typed.unit];
  if (!size || value === "" || !Number.isFinite(Number(value))) return value;
  const digits = Math.max(0, Math.ceil(Math.log10(size * 100) - 1e-9));
  return `${Number((Number(value) / size).toFixed(digits))} ${typed.unit}`;
}

/** What was typed last into the fields of each name. */
export const useTyped = create<{ fields: Readonly<Record<string, Typed | null>>; keep: (label: string, typed: Typed | null) => void }>()(
  persist((set) => ({ fields: {}, keep: (label, typed) => set(({ fields }) => ({ fields: { ...fields, [label]: typed } })) }), { name: "skalto.typed" }),
);

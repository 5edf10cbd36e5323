import { create } from "zustand";

export type Unit = "mm" | "in";
const MM: Record<Unit, number> = { mm: 1, in: 25.4 };
/** A figure in inches has so many digits more than one in millimetres. */
const MORE: Record<Unit, number> = { mm: 0, in: 1 };

/** The unit of the job that is open: what lengths are shown in, and what a bare number is. */
export const useJobUnit = create<{ unit: Unit }>(() => ({ unit: "mm" }));

/** A length, mm, in the job's unit, without its name. */
export function inUnit(value: number, digits = 3): string {
  const { unit } = useJobUnit.getState();
  return Number((value / MM[unit]).toFixed(digits + MORE[unit])).toString();
}

/** Width × height, mm, in the job's unit. */
export const sizeInUnit = (width: number, height: number, digits = 2) => `${inUnit(width, digits)} × ${inUnit(height, digits)} ${useJobUnit.getState().unit}`;

/** What was typed, with the job's unit behind a bare number. */
export const withUnit = (text: string) => (useJobUnit.getState().unit === "in" && /^\s*[-+]?[\d\s./,]+$/.test(text) ? `${text.trim()}in` : text);

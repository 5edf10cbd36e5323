import { readInUnit, readLength } from "../api/queries";
import * as texts from "./texts";

/** A length as people type it, mm; a bare number is in the job's unit. */
export const length = async (text: string) => String((await readInUnit(text)).mm);

/** A length as people type it, mm, of what is no job's: pens, recipes, a cutter's settings. */
export const millimetres = async (text: string) => String((await readLength(text)).mm);

export const number = async (text: string) => {
  const value = Number(text.replace(",", "."));
  if (!text.trim() || !Number.isFinite(value)) throw new Error(texts.isNoNumber(text));
  return String(value);
};

export const factor = async (text: string) => {
  const value = Number(text.replace(",", "."));
  if (!(value > 0) || !Number.isFinite(value)) throw new Error(texts.isNoFactor(text));
  return String(value);
};

export const words = async (text: string) => {
  if (!text.trim()) throw new Error(texts.typeSomeLetters);
  return text.trim();
};

export const whole = async (text: string) => {
  if (!/^\d+$/.test(text.trim())) throw new Error(texts.isNoWholeNumber(text));
  return String(Number(text));
};

/** A number, or nothing. */
export const numberOrNone = async (text: string) => (text.trim() ? number(text) : "");

/** A whole number, or nothing. */
export const wholeOrNone = async (text: string) => (text.trim() ? whole(text) : "");

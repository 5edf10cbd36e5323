import { readLength } from "../api/queries";
import * as texts from "./texts";

/** A length as people type it, mm. */
export const length = async (text: string) => String((await readLength(text)).mm);

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

/** Width × height of a plate, mm. */
export const sizeOf = (text: string): [number, number] | null => {
  const found = /^\s*(\d+(?:\.\d+)?)\s*[x×]\s*(\d+(?:\.\d+)?)\s*(mm)?\s*$/i.exec(text);
  return found ? [Number(found[1]), Number(found[2])] : null;
};

export const size = async (text: string) => {
  const found = sizeOf(text);
  if (!found || !found[0] || !found[1]) throw new Error(texts.isNoSize(text));
  return `${found[0]} × ${found[1]}`;
};

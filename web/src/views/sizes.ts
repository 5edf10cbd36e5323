import { inUnit, useJobUnit, type Unit } from "../common/unit";
import * as texts from "./texts";

const MM: Readonly<Record<string, number>> = { mm: 1, cm: 10, m: 1000, in: 25.4, '"': 25.4, ft: 304.8 };

/** Width × height of a plate, mm; where no unit was typed, the figures are in *unit*. */
export const sizeOf = (text: string, unit: Unit = "mm"): [number, number] | null => {
  const found = /^\s*(\d+(?:\.\d+)?)\s*(mm|cm|m|in|ft|")?\s*[x×]\s*(\d+(?:\.\d+)?)\s*(mm|cm|m|in|ft|")?\s*$/i.exec(text);
  if (!found) return null;
  const of = (own: string | undefined) => MM[(own ?? found[4] ?? found[2] ?? unit).toLowerCase()] ?? 1;
  return [mm(found[1]!, of(found[2])), mm(found[3]!, of(found[4]))];
};

const mm = (figure: string, factor: number) => Number((Number(figure) * factor).toFixed(6));

/** A size, mm × mm, as it was typed. */
export const size = async (text: string, unit: Unit = "mm") => {
  const found = sizeOf(text, unit);
  if (!found || !found[0] || !found[1]) throw new Error(texts.isNoSize(text));
  return `${found[0]} × ${found[1]}`;
};

/** The same, where it is a job's: in its unit, as it is shown. */
export const sizeInJob = async (text: string) => {
  const found = sizeOf(await size(text, useJobUnit.getState().unit))!;
  return shownSize(...found);
};

export const shownSize = (width: number, height: number) => `${inUnit(width, 4)} × ${inUnit(height, 4)}`;

/** Width and height, mm, of a size that is shown in the job's unit. */
export const sizeShown = (text: string) => sizeOf(text, useJobUnit.getState().unit);

import { inUnit, useJobUnit } from "../common/unit";

/** What is about widths of lines, which are chosen in millimetres. */
const WIDTHS = new Set(["printing", "thin-line", "widths", "pale"]);

/** What a check tells, with its lengths, which it reads in millimetres, in the job's unit. */
export function told(text: string, code: string): string {
  const { unit } = useJobUnit.getState();
  if (unit === "mm" || WIDTHS.has(code)) return text;
  return text.replace(/(\d+(?:\.\d{1,9})?)(?:( for | × | x )(\d+(?:\.\d{1,9})?))? mm(?![\w²³])/g, (_, a: string, between?: string, b?: string) => {
    const digits = Math.max(4, (a.split(".")[1] ?? "").length);
    return `${[a, b].flatMap((own) => (own ? [inUnit(Number(own), digits)] : [])).join(between)} ${unit}`;
  });
}

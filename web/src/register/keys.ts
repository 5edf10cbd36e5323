import type { Drawing, DrawingKey, NamedDrawing } from "../api/register";

/** A drawing's key as a row of a table has it. */
export const keyOf = (row: DrawingKey) => `${row.job}:${row.sheet}`;

/** A row of the register by its key and its name. */
export const nameOf = (row: Drawing): NamedDrawing => ({ job: row.job, sheet: row.sheet, called: `${row.job_number} ${row.about.name}` });

/** Those of some keys, out of what was chosen before and what is shown. */
export function chosenOf(keys: readonly string[], before: readonly NamedDrawing[], shown: readonly Drawing[]): NamedDrawing[] {
  const known = new Map([...before, ...shown.map(nameOf)].map((own) => [keyOf(own), own]));
  return keys.flatMap((key) => known.get(key) ?? []);
}

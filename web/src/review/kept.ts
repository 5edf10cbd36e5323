import type { Cut } from "./cutting";
import type { Measure, Reading } from "./measuring";
import type { Camera, Triple } from "./model";

interface Named {
  id: string;
  name: string;
}

export interface KeptCamera extends Named {
  kind: "camera";
  camera: Camera;
}
export interface KeptSection extends Named {
  kind: "section";
  cuts: Cut[];
}
export interface KeptReading extends Named {
  kind: "reading";
  measure: Measure;
  what: string;
  value: number;
  start: Triple;
  end: Triple;
  coarse: boolean;
  parts: string[];
}
export interface KeptMark extends Named {
  kind: "mark";
  at: Triple;
  text: string;
  part: string;
}

/** What a review keeps under a name; the server's words. */
export type KeptItem = KeptCamera | KeptSection | KeptReading | KeptMark;
export type Kind = KeptItem["kind"];

/** The first of "Camera 1", "Camera 2" and so on that no other thing of that kind is called. */
export function freeName(kept: readonly KeptItem[], kind: Kind, word: string): string {
  const taken = new Set(kept.filter((own) => own.kind === kind).map((own) => own.name.toLowerCase()));
  let number = 1;
  while (taken.has(`${word} ${number}`.toLowerCase())) number += 1;
  return `${word} ${number}`;
}

/** A reading as it is shown, from one that was kept. */
export const readingOf = (own: KeptReading): Reading => ({
  id: own.id,
  kind: own.measure,
  what: own.what,
  value: own.value,
  from: own.start,
  to: own.end,
  coarse: own.coarse,
  parts: own.parts,
});

export const keptReading = (reading: Reading, name: string): KeptReading => ({
  kind: "reading",
  id: reading.id,
  name,
  measure: reading.kind,
  what: reading.what,
  value: reading.value,
  start: reading.from,
  end: reading.to,
  coarse: reading.coarse,
  parts: reading.parts,
});

/** Whoever keeps what is found: a sheet of a job, or for as long as the page is open the page itself. */
export interface Keeper {
  keep: (item: KeptItem) => void;
  forget: (ids: string[]) => void;
  /** Whether it is still there when the page is opened again. */
  lasting?: boolean;
  /** Makes a prepared view of what is seen, under a name; where there are prepared views to set. */
  asView?: (name: string) => void;
  /** Writes on the sheet that the model is on; where there is one. */
  asNote?: (text: string) => void;
  /** Puts a section view on the sheet. */
  asSection?: (cut: Cut) => void;
  /** Turns the model, and looks at its front where that was asked for; where its orientation can be set. */
  turn?: (matrix: [Triple, Triple, Triple], toFront?: boolean) => void;
}

import { create } from "zustand";
import type { Job, Vector } from "../api/client";

export interface Looking {
  look: Vector;
  up: Vector;
}

type Direction = readonly number[];

const dot = (a: Direction, b: Direction) => a.reduce((sum, v, i) => sum + v * (b[i] ?? 0), 0);
const along = (a: Direction, b: Direction) => dot(a, b) / (Math.sqrt(dot(a, a) * dot(b, b)) || 1) > 1 - 1e-6;
/** What of *up* is up on the picture. */
const upright = ({ look, up }: { look: Direction; up: Direction }) => up.map((v, i) => v - (dot(up, look) / dot(look, look)) * (look[i] ?? 0));

/** Whether two ways of looking give one view, as near as a hand can tell. */
export const sameView = (a: Looking, b: Looking) => along(a.look, b.look) && along(upright(a), upright(b));

/** The sheet of each job that is being worked on. */
export const useWorkedOn = create<{ sheets: Readonly<Record<number, string>>; work: (job: number, sheet: string) => void }>((set) => ({
  sheets: {},
  work: (job, id) => set(({ sheets }) => ({ sheets: { ...sheets, [job]: id } })),
}));

/** Where what is put on a sheet goes: the one that is being worked on, or a new one. */
export function useTargetSheet(job: Job) {
  const { sheets, work } = useWorkedOn();
  const wanted = sheets[job.id] ?? "";
  const sheet = job.document.sheets.some((own) => own.id === wanted) ? wanted : "new";
  return { sheet, aimAt: (id: string) => work(job.id, id) };
}

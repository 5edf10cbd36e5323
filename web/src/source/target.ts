import { create } from "zustand";
import type { Job } from "../api/client";

/** The sheet of each job that is being worked on. */
export const useWorkedOn = create<{ sheets: Readonly<Record<number, string>>; work: (job: number, sheet: string) => void }>((set) => ({
  sheets: {},
  work: (job, sheet) => set((state) => ({ sheets: { ...state.sheets, [job]: sheet } })),
}));

/** Where what is put on a sheet goes: the one that is being worked on, or a new one. */
export function useTargetSheet(job: Job) {
  const { sheets, work } = useWorkedOn();
  const wanted = sheets[job.id] ?? "";
  const sheet = job.document.sheets.some((own) => own.id === wanted) ? wanted : "new";
  return { sheet, setWanted: (id: string) => work(job.id, id) };
}

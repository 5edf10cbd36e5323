import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { Printer } from "../api/looks";

/** The stand-in printer as it was set last on this machine. */
export const usePrinter = create<{ printer: Printer; set: (fields: Partial<Printer>) => void }>()(
  persist(
    (set) => ({
      printer: { name: "Stand-in printer", width: 210, height: 297, margins: [5, 5, 5, 5], habit: "reduce" },
      set: (fields) => set((now) => ({ printer: { ...now.printer, ...fields } })),
    }),
    { name: "skalto-printer" },
  ),
);

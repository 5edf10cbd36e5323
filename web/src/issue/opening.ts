import { create } from "zustand";
import { persist } from "zustand/middleware";

/** Whether a finished issue opens by itself; kept on this machine. */
export const useOpening = create<{ opens: boolean; set: (opens: boolean) => void }>()(
  persist((set) => ({ opens: false, set: (opens) => set({ opens }) }), { name: "skalto-opening" }),
);

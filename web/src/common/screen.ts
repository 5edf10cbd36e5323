import { useSyncExternalStore } from "react";
import { create } from "zustand";
import { persist } from "zustand/middleware";

/** Width of a bank card, mm: ISO/IEC 7810 ID-1. */
export const CARD = { width: 85.6, height: 53.98 };

interface Screen {
  /** Screen pixels a millimetre, as calibrated; 96 a CSS inch until then. */
  pixels: number;
  calibrated: boolean;
  calibrate: (pixels: number) => void;
}

export const useScreen = create<Screen>()(
  persist(
    (set) => ({
      pixels: 96 / 25.4,
      calibrated: false,
      calibrate: (pixels) => set({ pixels, calibrated: true }),
    }),
    { name: "skalto-screen" },
  ),
);

const NARROW = "(max-width: 1100px)";
const hears = (hear: () => void) => {
  const media = window.matchMedia(NARROW);
  media.addEventListener("change", hear);
  return () => media.removeEventListener("change", hear);
};

/** Whether the window is too narrow for a sheet beside its strip and its ticket. */
export const useNarrow = () => useSyncExternalStore(hears, () => window.matchMedia(NARROW).matches);

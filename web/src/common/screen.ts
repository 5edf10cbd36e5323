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

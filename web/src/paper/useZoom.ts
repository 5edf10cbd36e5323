import { useCallback, useEffect, useRef, useState } from "react";
import { useCommands } from "../common/commands";
import type { PaperSize } from "./geometry";
import { useScreen } from "../common/screen";
import { useRoom } from "../common/useRoom";
import * as texts from "./texts";

/** Room for the rulers and a breath around the sheet, px. */
export const PAD = { left: 40, top: 40, right: 28, bottom: 60 };
const STEP = 1.25;

/** How large the sheet is shown, px a mm: whole, at real size, or any; with its commands. */
export function useZoom(paper: PaperSize, group: string, onCalibrate: () => void) {
  const frame = useRef<HTMLDivElement>(null);
  const room = useRoom(frame);
  const [chosen, setChosen] = useState<number | null>(null);
  const pixels = useScreen((state) => state.pixels);
  const whole = Math.max(0.02, Math.min((room.width - PAD.left - PAD.right) / paper.width, (room.height - PAD.top - PAD.bottom) / paper.height));
  const zoom = chosen ?? whole;
  const by = useCallback((factor: number) => setChosen((now) => Math.min(400, Math.max(0.05, (now ?? whole) * factor))), [whole]);
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const wheel = (event: WheelEvent) => {
      if (!event.ctrlKey && !event.metaKey) return;
      event.preventDefault();
      by(event.deltaY < 0 ? STEP : 1 / STEP);
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [by]);
  useCommands(group, [
    { id: "whole", title: texts.showTheWholeSheet, key: "F", run: () => setChosen(null) },
    { id: "real", title: texts.showAtRealSize, key: "R", run: () => setChosen(pixels) },
    { id: "larger", title: texts.showLarger, key: "+", run: () => by(STEP) },
    { id: "smaller", title: texts.showSmaller, key: "-", run: () => by(1 / STEP) },
    { id: "calibrate", title: texts.calibrateTheScreenWithA, run: onCalibrate },
  ]);
  return { frame, zoom, share: zoom / pixels, setWhole: () => setChosen(null), setReal: () => setChosen(pixels), by, step: STEP };
}

import type { useZoom } from "./useZoom";
import * as texts from "./texts";

type Zoom = Pick<ReturnType<typeof useZoom>, "share" | "setReal" | "setWhole" | "by" | "step">;

/** How large the sheet is shown, and the ways to show it otherwise. */
export function ZoomHint({ what, share, setReal, setWhole, by, step }: Zoom & { what: string }) {
  return (
    <>
      {what} {texts.shownAt} {share.toFixed(2)} {texts.ofRealSize}
      <button type="button" onClick={setReal}>
        <kbd>R</kbd> {texts.realSize}
      </button>
      <button type="button" onClick={setWhole}>
        <kbd>F</kbd> {texts.wholeSheet}
      </button>
      <button data-again type="button" onClick={() => by(step)} aria-label={texts.showLarger}>
        <kbd>+</kbd>
      </button>
      <button data-again type="button" onClick={() => by(1 / step)} aria-label={texts.showSmaller}>
        <kbd>-</kbd>
      </button>
    </>
  );
}

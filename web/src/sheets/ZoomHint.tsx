import type { useZoom } from "./useZoom";

type Zoom = Pick<ReturnType<typeof useZoom>, "share" | "setReal" | "setWhole" | "by" | "step">;

/** How large the sheet is shown, and the ways to show it otherwise. */
export function ZoomHint({ what, share, setReal, setWhole, by, step }: Zoom & { what: string }) {
  return (
    <>
      {what} · shown at {share.toFixed(2)} of real size
      <button type="button" onClick={setReal}>
        <kbd>R</kbd> real size
      </button>
      <button type="button" onClick={setWhole}>
        <kbd>F</kbd> whole sheet
      </button>
      <button data-again type="button" onClick={() => by(step)} aria-label="Show larger">
        <kbd>+</kbd>
      </button>
      <button data-again type="button" onClick={() => by(1 / step)} aria-label="Show smaller">
        <kbd>-</kbd>
      </button>
    </>
  );
}

import type { usePrinted } from "../api/looks";
import * as texts from "./texts";

/** The stand-in's paper with what came out on it, and the margins that stayed white. */
export function PrintedSheet({ state, zoom }: { state: NonNullable<ReturnType<typeof usePrinted>["data"]>; zoom: number }) {
  const out = state.printed;
  if (!out) return null;
  const { width, height } = out.printer;
  const [x0, y0, x1, y1] = out.printable;
  return (
    <>
      <img className="overlay" src={state.picture} alt={texts.thePrintedSheet} />
      <svg className="unprintable" width={width * zoom} height={height * zoom} aria-hidden>
        <path
          fillRule="evenodd"
          d={`M0 0H${width * zoom}V${height * zoom}H0ZM${x0 * zoom} ${(height - y1) * zoom}V${(height - y0) * zoom}H${x1 * zoom}V${(height - y1) * zoom}Z`}
        />
      </svg>
    </>
  );
}

import { useJobUnit, type Unit } from "../common/unit";
import type { PaperSize } from "./geometry";

const STEPS: Record<Unit, readonly number[]> = { mm: [0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500], in: [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20] };
const LEAST = 5;
const DEPTH = 14;

/** Marks along a length, mm: *at* in mm, their words in the unit. */
function ticks(length: number, zoom: number, unit: Unit) {
  const size = unit === "in" ? 25.4 : 1;
  const small = (STEPS[unit].find((step) => step * size * zoom >= LEAST) ?? 500) * size;
  const label = small * 10;
  const count = Math.floor(length / small + 1e-9);
  return Array.from({ length: count + 1 }, (_, i) => ({
    at: i * small,
    size: i % 10 === 0 ? DEPTH : i % 5 === 0 ? 9 : 5,
    text: i % 10 === 0 ? String(Number(((i * small) / size).toFixed(3))) : "",
    label,
  }));
}

/** Rulers in the job's unit along the upper and left edge of the sheet, whose lower left corner is 0, 0. */
export function Rulers({ paper, zoom }: { paper: PaperSize; zoom: number }) {
  const height = paper.height * zoom;
  const unit = useJobUnit((state) => state.unit);
  return (
    <g className="rulers" aria-hidden>
      {ticks(paper.width, zoom, unit).map(({ at, size, text }) => (
        <g key={`x${at}`}>
          <line x1={at * zoom} x2={at * zoom} y1={-8} y2={-8 - size} />
          {text && (
            <text x={at * zoom + 3} y={-19}>
              {text}
            </text>
          )}
        </g>
      ))}
      {ticks(paper.height, zoom, unit).map(({ at, size, text }) => (
        <g key={`y${at}`}>
          <line y1={height - at * zoom} y2={height - at * zoom} x1={-8} x2={-8 - size} />
          {text && (
            <text x={-24} y={height - at * zoom - 3} textAnchor="end">
              {text}
            </text>
          )}
        </g>
      ))}
    </g>
  );
}

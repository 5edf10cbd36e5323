import type { PenRule, Stroke } from "../api/pens";
import { useScreen } from "../common/screen";

const LENGTH = 64;
const HEIGHT = 16;
const CAPS = { flat: "butt", round: "round", square: "square" } as const;

/** A line as a rule draws it, at its true width on a calibrated screen; thinner than a pixel it is drawn in less ink. */
export function Specimen({ rule, types, width, drawn }: { rule: PenRule; types: Record<string, number[]>; width: number; drawn?: Stroke }) {
  const pixels = useScreen((state) => state.pixels);
  const dashes = rule.line_type === "own" ? rule.dashes : (types[rule.line_type] ?? []);
  const thick = width * pixels;
  const colour = rule.ink === "source" ? (drawn?.colour ?? "#1d2a33") : rule.ink;
  return (
    <svg className="specimen" width={LENGTH} height={HEIGHT} aria-hidden>
      <line
        x1={3}
        x2={LENGTH - 3}
        y1={HEIGHT / 2}
        y2={HEIGHT / 2}
        stroke={colour}
        strokeWidth={Math.max(thick, 0.6)}
        strokeOpacity={(Math.min(1, Math.max(thick, 0.25) / 0.6) * rule.tint) / 100}
        strokeDasharray={dashes.map((dash) => dash * thick).join(" ") || undefined}
        strokeLinecap={CAPS[rule.caps ?? (dashes.length ? "flat" : "round")]}
      />
    </svg>
  );
}

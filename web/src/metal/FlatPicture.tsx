import type { Pattern } from "../api/metal";
import * as texts from "./texts";

/** A flat pattern with its bend lines, each to be picked. */
export function FlatPicture({ pattern, lit, onLit }: { pattern: Pattern; lit: number | null; onLit: (bend: number | null) => void }) {
  const { facts } = pattern;
  const room = Math.max(facts.width, facts.height) * 0.04;
  return (
    <svg
      role="img"
      aria-label={texts.flatPatternOf(facts.name)}
      viewBox={`${-room} ${-facts.height - room} ${facts.width + 2 * room} ${facts.height + 2 * room}`}
    >
      <g transform="scale(1 -1)">
        <path className="pattern-cut" d={pattern.cut} />
        {pattern.features.map((feature, index) => (
          <path key={index} className="pattern-feature" d={feature.path}>
            <title>{`${feature.kind} ${texts.onSide(feature.side)}`}</title>
          </path>
        ))}
        {facts.bends.map((bend, index) => (
          <g key={bend.number}>
            <path className={`pattern-bend ${bend.direction} ${lit === bend.number ? "lit" : ""}`} d={pattern.bends[index]} />
            <path className="pattern-grip" d={pattern.bends[index]} onClick={() => onLit(lit === bend.number ? null : bend.number)}>
              <title>{`${bend.number}: ${bend.direction} ${bend.angle.toFixed(1)}° R${bend.radius.toFixed(2)}`}</title>
            </path>
          </g>
        ))}
      </g>
    </svg>
  );
}

import { useMemo } from "react";
import type { Pattern } from "../api/metal";
import { folded, seen } from "./folding";
import { boxAbout, useTurning } from "./turning";
import * as texts from "./texts";

const ROOM = 8;

/** A pattern folded by a share, seen from where it was turned to; the strips of a bend that is picked are lit. */
export function FoldedPicture({ pattern, share, lit }: { pattern: Pattern; share: number; lit: number | null }) {
  const { eye, hands } = useTurning();
  const facets = useMemo(() => {
    const light: [number, number, number] = [0.3, 0.45, 0.84];
    return folded(pattern.strips, share)
      .map((facet) => {
        const rings = facet.rings.map((ring) => ring.map((place) => seen(place, eye)));
        const points = rings.flat();
        const away = seen(facet.out, eye)[2];
        const shine = Math.abs(facet.out[0] * light[0] + facet.out[1] * light[1] + facet.out[2] * light[2]);
        return { ...facet, rings, near: points.reduce((sum, p) => sum + p[2], 0) / points.length, front: away > 0, shine };
      })
      .sort((a, b) => a.near - b.near);
  }, [pattern.strips, share, eye]);
  return (
    <svg
      role="img"
      aria-label={texts.folded}
      viewBox={boxAbout(
        facets.flatMap((facet) => facet.rings.flat()),
        ROOM,
      )}
      {...hands}
    >
      {facets.map((facet, index) => {
        const bend = pattern.strips[facet.strip]?.bend ?? 0;
        const tone = Math.round((facet.front ? 62 : 42) + 34 * facet.shine);
        return (
          <path
            key={index}
            className={bend ? "facet bent" : "facet"}
            d={facet.rings.map((ring) => `M${ring.map((p) => `${p[0].toFixed(2)} ${(-p[1]).toFixed(2)}`).join("L")}Z`).join("")}
            fillRule="evenodd"
            style={{ fill: bend && bend === lit ? "var(--found)" : `color-mix(in srgb, var(--light) ${tone}%, var(--ink-line))` }}
          />
        );
      })}
    </svg>
  );
}

import { useMemo, useRef, useState } from "react";
import type { Pattern } from "../api/metal";
import { folded, seen, type Eye } from "./folding";
import * as texts from "./texts";

/** So far about the vertical and up a drag of one pixel turns, radians. */
const PER_PIXEL = 0.01;
const ROOM = 8;

/** A pattern folded by a share, seen from where it was turned to; the strips of a bend that is picked are lit. */
export function FoldedPicture({ pattern, share, lit }: { pattern: Pattern; share: number; lit: number | null }) {
  const [eye, setEye] = useState<Eye>({ turn: -0.6, lift: 0.6 });
  const from = useRef<{ x: number; y: number; eye: Eye } | null>(null);
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
  const all = facets.flatMap((facet) => facet.rings.flat());
  const low = [Math.min(...all.map((p) => p[0])), Math.min(...all.map((p) => p[1]))] as const;
  const high = [Math.max(...all.map((p) => p[0])), Math.max(...all.map((p) => p[1]))] as const;
  return (
    <svg
      role="img"
      aria-label={texts.folded}
      viewBox={`${low[0] - ROOM} ${-high[1] - ROOM} ${high[0] - low[0] + 2 * ROOM} ${high[1] - low[1] + 2 * ROOM}`}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = { x: event.clientX, y: event.clientY, eye };
      }}
      onPointerMove={(event) => {
        const start = from.current;
        if (!start) return;
        const lift = start.eye.lift + (event.clientY - start.y) * PER_PIXEL;
        setEye({ turn: start.eye.turn - (event.clientX - start.x) * PER_PIXEL, lift: Math.min(Math.PI / 2, Math.max(-Math.PI / 2, lift)) });
      }}
      onPointerUp={() => (from.current = null)}
      onPointerCancel={() => (from.current = null)}
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

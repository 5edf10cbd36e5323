import { memo } from "react";
import type { Picture } from "../api/client";
import { fillOf, inkOf } from "./ink";

const THINNEST = 0.6;

/** What is written on a sheet, from the server's picture in sheet mm: strokes with their pens, fills, lettering. */
export const Written = memo(function Written({ picture, zoom, edges }: { picture: Picture; zoom: number; edges?: readonly string[] }) {
  return (
    <>
      {picture.paths
        .filter((path) => !edges || edges.includes(path.edge_class))
        .map((path, index) =>
          path.fill ? (
            <path key={index} d={path.d} className="filled" style={{ fill: fillOf(path) }} />
          ) : (
            <path key={index} d={path.d} className="stroke" data-edges={path.edge_class} {...inkOf(path, 1, THINNEST / zoom)} />
          ),
        )}
      {picture.fills && <path d={picture.fills} className="filled" />}
      {picture.texts.map((run, index) => (
        <text
          key={index}
          transform={`translate(${run.x} ${-run.y}) rotate(${-run.angle})`}
          fontSize={run.size}
          className={`lettering face-${run.face}`}
          style={{ fill: run.colour ?? undefined }}
          data-text={run.text}
          aria-hidden
        >
          {run.drawn}
        </text>
      ))}
    </>
  );
});

import { memo } from "react";
import type { Picture, Trade } from "../api/client";

const THINNEST = 0.6;

/** What is written on a sheet, from the server's picture in sheet mm: strokes with their pens, fills, lettering. */
export const Written = memo(function Written({ picture, zoom, trade, edges }: { picture: Picture; zoom: number; trade: Trade; edges?: readonly string[] }) {
  return (
    <>
      {picture.paths
        .filter((path) => !edges || edges.includes(path.edge_class))
        .map((path) => {
          const pen = trade.pens.find((p) => p.edge_class === path.edge_class);
          const width = pen?.width ?? 0.25;
          return (
            <path
              key={path.edge_class}
              d={path.d}
              className="stroke"
              data-edges={path.edge_class}
              strokeWidth={Math.max(width, THINNEST / zoom)}
              strokeDasharray={pen?.dashes.map((d) => d * width).join(" ") || undefined}
            />
          );
        })}
      {picture.fills && <path d={picture.fills} className="filled" />}
      {picture.texts.map((run, index) => (
        <text key={index} transform={`translate(${run.x} ${-run.y}) rotate(${-run.angle})`} fontSize={run.size} className={`lettering face-${run.face}`} data-text={run.text} aria-hidden>
          {run.drawn}
        </text>
      ))}
    </>
  );
});

import { memo } from "react";
import type { Picture, View } from "../api/client";
import { excerptOf, isShown } from "../api/content";
import { DrawnStrokes } from "./DrawnStrokes";
import { ratio } from "./geometry";
import { inkOf } from "./ink";

const THINNEST = 0.75;

interface Props {
  view: Pick<View, "anchor" | "scale" | "rotation" | "classes" | "content">;
  picture: Picture;
  zoom: number;
  children?: React.ReactNode;
}

/** A view's lines, in pixels about where its anchor lies; drawn anew only when lines, scale or zoom change, not on a move. */
export const ViewStrokes = memo(function ViewStrokes({ view, picture, zoom, children }: Props) {
  const s = ratio(view.scale) * zoom;
  const [ax, ay] = view.anchor;
  return (
    <g transform={`rotate(${-view.rotation}) scale(${s}) translate(${-ax} ${ay})`}>
      {children}
      {excerptOf(view) && <DrawnStrokes picture={picture} scale={s} zoom={zoom} thinnest={0.5} />}
      {!excerptOf(view) &&
        picture.paths
          .filter((path) => isShown(view, path.edge_class))
          .map((path, index) => (
            <path
              key={index}
              d={path.d}
              className="stroke"
              data-edges={path.edge_class}
              data-rule={path.pen.rule ?? undefined}
              {...inkOf(path, zoom / s, THINNEST / s)}
            />
          ))}
    </g>
  );
});

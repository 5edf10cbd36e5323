import { memo } from "react";
import type { Picture } from "../api/client";
import { inkOf } from "./ink";

interface Props {
  picture: Picture;
  /** Pixels for each unit of the picture. */
  scale: number;
  /** Pixels for each millimetre of paper, for line widths. */
  zoom: number;
  thinnest: number;
  /** Layers that are not drawn. */
  off?: readonly string[];
}

/** What a drawing drew, with its own colours, widths, line types and lettering; y runs down. */
export const DrawnStrokes = memo(function DrawnStrokes({ picture, scale, zoom, thinnest, off }: Props) {
  const shown = off?.length ? picture.paths.filter((path) => !off.includes(path.layer)) : picture.paths;
  return (
    <g className="drawn">
      {picture.images.map((image, index) => (
        <image key={index} href={image.href} width={1} height={1} preserveAspectRatio="none" transform={`matrix(${image.matrix.join(" ")})`} />
      ))}
      {shown.map((path, index) =>
        path.fill ? (
          <path key={index} d={path.d} fill={path.pen.colour} fillOpacity={path.opacity} fillRule="evenodd" data-layer={path.layer} />
        ) : (
          <path
            key={index}
            d={path.d}
            className="stroke"
            data-layer={path.layer}
            data-rule={path.pen.rule ?? undefined}
            strokeOpacity={path.opacity}
            {...inkOf(path, zoom / scale, thinnest / scale)}
          />
        ),
      )}
      {picture.texts.map((run, index) => (
        <text
          key={index}
          transform={`translate(${run.x} ${-run.y}) rotate(${-run.angle}) skewX(${-run.slant}) scale(${run.stretch} 1)`}
          fontSize={run.size}
          className={`lettering face-${run.face}`}
          style={{ fill: run.colour ?? undefined }}
          data-text={run.text}
          aria-hidden
        >
          {run.drawn}
        </text>
      ))}
    </g>
  );
});

import { useRef } from "react";
import { inUnit } from "../common/unit";
import type { Job, Sheet, View, Writing } from "../api/client";
import { excerptOf, modelOf } from "../api/content";
import { useShade } from "../api/desk";
import { usePicture } from "../api/queries";
import { SNAP_PIXELS, boxOf, snap, type Box, type PaperSize, type SnapLines } from "../paper/geometry";
import { useDeskMode } from "../views/mode";
import { PAD } from "../paper/useZoom";
import { ViewStrokes } from "../paper/ViewStrokes";
import { Written } from "../paper/Written";
import * as texts from "./texts";
import * as viewsTexts from "../views/texts";

const SLACK = 3;

interface Props {
  job: Job;
  sheet: Sheet;
  view: View;
  paper: PaperSize;
  zoom: number;
  writing: Writing | undefined;
  selected: boolean;
  lines: SnapLines;
  onSelect: (more: boolean) => void;
  onMove: (by: [number, number]) => void;
  onDrag: (text: string | null) => void;
}

/** A view on a layer of its own, so that a drag moves the layer and draws nothing anew. */
export function ViewLayer({ job, sheet, view, paper, zoom, writing, selected, lines, onSelect, onMove, onDrag }: Props) {
  const { data } = usePicture(job, sheet.id, view);
  const { data: shade } = useShade(job, sheet.id, view);
  const layer = useRef<HTMLDivElement>(null);
  const from = useRef<{ x: number; y: number; by: [number, number] | null } | null>(null);
  const mode = useDeskMode((state) => state.mode);
  const own = writing?.views[view.id];
  const [px, py] = view.place;
  // what was written with the view elsewhere goes along until it is written anew
  const [dx, dy] = own ? [px - own.place[0], py - own.place[1]] : [0, 0];
  const corners = own?.region?.map(([x, y]): [number, number] => [x + dx, y + dy]);
  const exact: Box | null = corners
    ? [
        Math.min(...corners.map((c) => c[0])),
        Math.min(...corners.map((c) => c[1])),
        Math.max(...corners.map((c) => c[0])),
        Math.max(...corners.map((c) => c[1])),
      ]
    : own?.box
      ? [own.box[0] + dx, own.box[1] + dy, own.box[2] + dx, own.box[3] + dy]
      : null;
  const box = exact ?? boxOf(view, data?.picture);

  const down = (event: React.PointerEvent) => {
    if (event.button !== 0 || mode) return;
    event.stopPropagation();
    onSelect(event.shiftKey);
    from.current = { x: event.clientX, y: event.clientY, by: null };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: React.PointerEvent) => {
    const start = from.current;
    if (!start || !box) return;
    const [mx, my] = [event.clientX - start.x, event.clientY - start.y];
    if (!start.by && Math.hypot(mx, my) < SLACK) return;
    // tenths of a millimetre: what a hand can mean
    let by: [number, number] = [Math.round((mx / zoom) * 10) / 10, Math.round((-my / zoom) * 10) / 10];
    if (!event.altKey) {
      const moved: Box = [box[0] + by[0], box[1] + by[1], box[2] + by[0], box[3] + by[1]];
      const near = snap(moved, lines, SNAP_PIXELS / zoom);
      by = [by[0] + near.by[0], by[1] + near.by[1]];
    }
    start.by = by;
    // whole pixels: a layer between them has to be smoothed anew on every frame
    if (layer.current) layer.current.style.transform = `translate3d(${Math.round(by[0] * zoom)}px, ${Math.round(-by[1] * zoom)}px, 0)`;
    onDrag(texts.movedByToXY(inUnit(by[0], 2), inUnit(by[1], 2), inUnit(box[0] + by[0], 2), inUnit(box[1] + by[1], 2)));
  };
  const up = () => {
    const by = from.current?.by;
    from.current = null;
    if (!by) return;
    onDrag(null);
    onMove(by);
    if (layer.current) layer.current.style.transform = "";
  };

  const waiting = data?.work;
  const warned = writing?.notices.find((own) => own.view === view.id && own.level !== "info");
  // an excerpt's edge is the edge itself
  const slack = corners ? 0 : 4;
  const [x, y] = [px * zoom, (paper.height - py) * zoom];
  const grip = box && { x: box[0] * zoom - x, y: (paper.height - box[3]) * zoom - y, w: (box[2] - box[0]) * zoom, h: (box[3] - box[1]) * zoom };
  return (
    <div
      ref={layer}
      className={`view-layer ${selected ? "selected" : ""} ${mode ? "still" : ""} ${data?.rough ? "rough" : ""}`}
      style={{ left: PAD.left + x, top: PAD.top + y }}
    >
      <svg
        width={1}
        height={1}
        className="view"
        data-view={view.name}
        data-id={view.id}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={up}
      >
        {grip && <rect className="grip" x={grip.x - slack} y={grip.y - slack} width={grip.w + 2 * slack} height={grip.h + 2 * slack} />}
        {corners && !selected && (
          <polygon className="region" points={corners.map(([cx, cy]) => `${cx * zoom - x},${(paper.height - cy) * zoom - y}`).join(" ")} />
        )}
        {data?.picture && (
          <ViewStrokes view={view} picture={data.picture} zoom={zoom}>
            {modelOf(view)?.shaded && !sheet.clean && shade?.url && shade.box && (
              <image
                href={`${shade.url}?${job.state}`}
                x={shade.box[0]}
                y={-shade.box[3]}
                width={shade.box[2] - shade.box[0]}
                height={shade.box[3] - shade.box[1]}
                preserveAspectRatio="none"
              />
            )}
          </ViewStrokes>
        )}
        {own && !sheet.clean && (
          <g className="marks" transform={`translate(${dx * zoom - x} ${paper.height * zoom - dy * zoom - y}) scale(${zoom})`}>
            <Written picture={own.marks} zoom={zoom} />
          </g>
        )}
        {waiting && !data?.picture && (
          <text className="waiting">
            {waiting.state === "failed"
              ? waiting.error
              : waiting.state === "cancelled"
                ? viewsTexts.cancelled
                : excerptOf(view)
                  ? viewsTexts.drawing
                  : texts.removingHiddenLines}
          </text>
        )}
        {grip && warned && (
          <g className={`view-warning ${warned.level}`} transform={`translate(${grip.x + grip.w - 7} ${grip.y + 7})`} role="img" aria-label={warned.message}>
            <title>{warned.message}</title>
            <circle r={8} />
            <text y={4}>!</text>
          </g>
        )}
        {selected && grip && (
          <g className="corners">
            {[grip.x, grip.x + grip.w].flatMap((cx) => [grip.y, grip.y + grip.h].map((cy) => <circle key={`${cx} ${cy}`} cx={cx} cy={cy} r={4} />))}
          </g>
        )}
      </svg>
    </div>
  );
}

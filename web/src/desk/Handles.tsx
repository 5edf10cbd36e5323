import { useRef } from "react";
import type { Job, Sheet, Writing } from "../api/client";
import { useShiftDimension } from "../api/desk";
import { useEdit } from "../api/queries";
import type { PaperSize } from "../paper/geometry";
import { PAD } from "../paper/useZoom";
import * as texts from "./texts";

type Point = [number, number];
const BALLOON = 4.5;

/** Something small on the sheet that can be dragged, or clicked. */
function Handle({ points, zoom, label, onBy, onClick }: { points: string; zoom: number; label: string; onBy: (by: Point) => void; onClick?: () => void }) {
  const from = useRef<{ x: number; y: number; by: Point | null } | null>(null);
  const shape = useRef<SVGPolygonElement>(null);
  const end = () => {
    const by = from.current?.by;
    from.current = null;
    shape.current?.removeAttribute("transform");
    if (by) onBy(by);
    else onClick?.();
  };
  return (
    <polygon
      ref={shape}
      className="handle"
      points={points}
      role="button"
      aria-label={label}
      onPointerDown={(event) => {
        event.stopPropagation();
        from.current = { x: event.clientX, y: event.clientY, by: null };
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        if (!from.current) return;
        const [dx, dy] = [event.clientX - from.current.x, event.clientY - from.current.y];
        if (!from.current.by && Math.hypot(dx, dy) < 3) return;
        from.current.by = [Math.round((dx / zoom) * 10) / 10, Math.round((-dy / zoom) * 10) / 10];
        shape.current?.setAttribute("transform", `translate(${dx} ${dy})`);
      }}
      onPointerUp={() => from.current && end()}
    />
  );
}

/** What can be shifted on a sheet beside its views: figures of dimensions, balloons. */
export function Handles({
  job,
  sheet,
  writing,
  paper,
  zoom,
  onDimension,
}: {
  job: Job;
  sheet: Sheet;
  writing: Writing;
  paper: PaperSize;
  zoom: number;
  onDimension: (view: string, id: string) => void;
}) {
  const shift = useShiftDimension(job.id, sheet.id);
  const edit = useEdit(job.id);
  const at = ([x, y]: readonly [number, number]) => `${PAD.left + x * zoom},${PAD.top + (paper.height - y) * zoom}`;
  const listed = sheet.parts_list;
  return (
    <svg className="handles">
      {sheet.views.flatMap((view) => {
        const own = writing.views[view.id];
        const [dx, dy] = own ? [view.place[0] - own.place[0], view.place[1] - own.place[1]] : [0, 0];
        return (own?.dimensions ?? []).map((d) => (
          <Handle
            key={d.id}
            label={texts.dimension2(d.text)}
            points={d.corners.map(([x, y]) => at([x + dx, y + dy])).join(" ")}
            zoom={zoom}
            onBy={(by) => shift.mutate({ view: view.id, dimension: d.id, by })}
            onClick={() => onDimension(view.id, d.id)}
          />
        ));
      })}
      {listed &&
        writing.balloons.map((b) => {
          const [x, y] = b.place;
          const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((k) => [x + BALLOON * Math.cos((k * Math.PI) / 4), y + BALLOON * Math.sin((k * Math.PI) / 4)] as const);
          return (
            <Handle
              key={b.item}
              label={texts.balloon(b.item)}
              points={corners.map(at).join(" ")}
              zoom={zoom}
              onBy={(by) =>
                edit.mutate({
                  kind: "change_sheet",
                  sheet: sheet.id,
                  fields: { parts_list: { ...listed, moved: { ...listed.moved, [b.item]: [x + by[0], y + by[1]] } } },
                })
              }
            />
          );
        })}
    </svg>
  );
}

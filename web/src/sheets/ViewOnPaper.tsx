import { useRef, useState } from "react";
import type { Trade, View } from "../api/client";
import { usePicture } from "../api/queries";
import { boxOf, ratio, type PaperSize } from "./geometry";

interface Props {
  job: number;
  sheet: string;
  view: View;
  paper: PaperSize;
  zoom: number;
  trade: Trade;
  selected?: boolean;
  onSelect?: () => void;
  onPlace?: (place: [number, number]) => void;
  onDrag?: (place: [number, number] | null) => void;
}

const THINNEST = 0.75;
const SLACK = 3;

/** A view's lines on the sheet at true proportion; to select, and to drag when it may be placed. */
export function ViewOnPaper({ job, sheet, view, paper, zoom, trade, selected, onSelect, onPlace, onDrag }: Props) {
  const { data } = usePicture(job, sheet, view);
  const [moved, setMoved] = useState<[number, number] | null>(null);
  const from = useRef<{ x: number; y: number } | null>(null);
  // events may come faster than the page is drawn: where the hand is now is kept apart from what is drawn
  const last = useRef<[number, number] | null>(null);
  const here: View = moved ? { ...view, place: moved } : view;
  const [px, py] = here.place ?? [0, 0];
  const [ax, ay] = view.anchor ?? [0, 0];
  const s = ratio(view.scale ?? "1:1") * zoom;
  const box = boxOf(here, data?.picture);
  const shown = data?.picture?.paths.filter((path) => view.classes?.includes(path.edge_class as never)) ?? [];

  const down = (event: React.PointerEvent) => {
    if (!onSelect || event.button !== 0) return;
    event.stopPropagation();
    onSelect();
    if (!onPlace) return;
    from.current = { x: event.clientX, y: event.clientY };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: React.PointerEvent) => {
    if (!from.current) return;
    const dx = event.clientX - from.current.x;
    const dy = event.clientY - from.current.y;
    if (!last.current && Math.hypot(dx, dy) < SLACK) return;
    // tenths of a millimetre: what a hand can mean
    const [x, y] = view.place ?? [0, 0];
    const place: [number, number] = [Math.round((x + dx / zoom) * 10) / 10, Math.round((y - dy / zoom) * 10) / 10];
    last.current = place;
    setMoved(place);
    onDrag?.(place);
  };
  const up = () => {
    from.current = null;
    if (last.current) onPlace?.(last.current);
    last.current = null;
    setMoved(null);
    onDrag?.(null);
  };

  const waiting = data?.work;
  return (
    <g className={`view ${selected ? "selected" : ""}`} data-view={view.name} onPointerDown={down} onPointerMove={move} onPointerUp={up} onPointerCancel={up}>
      {box && (
        <rect className="grip" x={box[0] * zoom - 4} y={(paper.height - box[3]) * zoom - 4} width={(box[2] - box[0]) * zoom + 8} height={(box[3] - box[1]) * zoom + 8} />
      )}
      <g transform={`translate(${(px * zoom - ax * s).toFixed(4)} ${((paper.height - py) * zoom + ay * s).toFixed(4)}) scale(${s})`}>
        {shown.map((path) => {
          const pen = trade.pens.find((p) => p.edge_class === path.edge_class);
          const width = Math.max((pen?.width ?? 0.25) * zoom, THINNEST) / s;
          const dashes = pen?.dashes.map((d) => d * (pen.width * zoom) / s).join(" ");
          return <path key={path.edge_class} d={path.d} className="stroke" strokeWidth={width} strokeDasharray={dashes || undefined} />;
        })}
      </g>
      {waiting && (
        <text className="waiting" x={px * zoom} y={(paper.height - py) * zoom}>
          {waiting.state === "failed" ? waiting.error : waiting.state === "cancelled" ? "Called off" : "Taking away hidden lines …"}
        </text>
      )}
      {selected && box && (
        <g className="corners">
          {[0, 2].flatMap((i) => [1, 3].map((j) => <circle key={`${i}${j}`} cx={box[i as 0] * zoom} cy={(paper.height - (box[j as 1] ?? 0)) * zoom} r={4} />))}
        </g>
      )}
    </g>
  );
}

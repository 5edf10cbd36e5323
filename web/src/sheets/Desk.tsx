import { useState } from "react";
import type { Job, Sheet, Trade, View } from "../api/client";
import { usePicture } from "../api/queries";
import { Calibrate } from "./Calibrate";
import { boxOf, frameOf, mm, paperOf } from "./geometry";
import { Rulers } from "./Rulers";
import { PAD, useZoom } from "./useZoom";
import { ViewOnPaper } from "./ViewOnPaper";
import { ZoomHint } from "./ZoomHint";

interface Props {
  job: Job;
  sheet: Sheet;
  trade: Trade;
  selected: View | null;
  onSelect: (id: string | null) => void;
  onPlace: (view: View, place: [number, number]) => void;
  onComponents: () => void;
  onCentre: () => void;
  onRemove: () => void;
}

const ACTS_WIDTH = 310;

/** The words that act on the selected view, under it. */
function Acts({ job, sheet, view, zoom, width, height, ...acts }: Omit<Props, "trade" | "selected" | "onSelect" | "onPlace"> & { view: View; zoom: number; width: number; height: number }) {
  const { data } = usePicture(job.id, sheet.id, view);
  const box = boxOf(view, data?.picture);
  if (!box) return null;
  // under the view, and within the sheet even where the view is not
  const inside = (v: number, most: number) => Math.min(Math.max(v, 0), Math.max(most, 0));
  const style = {
    left: PAD.left + inside(box[0] * zoom, width * zoom - ACTS_WIDTH),
    top: PAD.top + inside((height - box[1]) * zoom, height * zoom) + 12,
  };
  return (
    <div className="acts" style={style}>
      <button type="button" onClick={acts.onComponents}>
        Components
      </button>
      <button type="button" onClick={acts.onCentre}>
        Centre on sheet
      </button>
      <button type="button" onClick={acts.onRemove}>
        Remove
      </button>
    </div>
  );
}

/** The working surface: the sheet as paper, rulers at its edges, its views to select and drag. */
export function Desk(props: Props) {
  const { job, sheet, trade, selected, onSelect, onPlace } = props;
  const [calibrating, setCalibrating] = useState(false);
  const [dragged, setDragged] = useState<[number, number] | null>(null);
  const paper = paperOf(sheet, trade);
  const { frame: element, zoom, ...size } = useZoom(paper, "desk", () => setCalibrating(true));
  const frame = frameOf(sheet, paper, trade);
  const width = paper.width * zoom;
  const height = paper.height * zoom;
  return (
    <div className="desk" ref={element} onPointerDown={() => onSelect(null)}>
      <div className="surface" style={{ width: width + PAD.left + PAD.right, height: height + PAD.top + PAD.bottom }}>
        <svg width={width + PAD.left + PAD.right} height={height + PAD.top + 4} role="img" aria-label={`Sheet ${sheet.name}`}>
          <g transform={`translate(${PAD.left} ${PAD.top})`}>
            <rect className="paper" width={width} height={height} />
            <Rulers paper={paper} zoom={zoom} />
            {frame && (
              <rect
                className="frame-line"
                x={frame[0] * zoom}
                y={(paper.height - frame[3]) * zoom}
                width={(frame[2] - frame[0]) * zoom}
                height={(frame[3] - frame[1]) * zoom}
                strokeWidth={Math.max((trade.pens.find((p) => p.edge_class === "frame")?.width ?? 0.7) * zoom, 0.8)}
              />
            )}
            {sheet.views?.map((view) => (
              <ViewOnPaper
                key={view.id}
                job={job.id}
                sheet={sheet.id}
                view={view}
                paper={paper}
                zoom={zoom}
                trade={trade}
                selected={view.id === selected?.id}
                onSelect={() => onSelect(view.id)}
                onPlace={(place) => onPlace(view, place)}
                onDrag={setDragged}
              />
            ))}
          </g>
        </svg>
        <div className="acts-layer" onPointerDown={(event) => event.stopPropagation()}>
          {selected && !dragged && <Acts {...props} view={selected} zoom={zoom} width={paper.width} height={paper.height} />}
        </div>
        <p className="hint soft" style={{ paddingLeft: PAD.left }} onPointerDown={(event) => event.stopPropagation()}>
          {dragged ? (
            `moved to x ${mm(dragged[0], 1)}, y ${mm(dragged[1], 1)}`
          ) : (
            <ZoomHint what={`${sheet.format} ${sheet.orientation}`} {...size} />
          )}
        </p>
      </div>
      <Calibrate open={calibrating} close={() => setCalibrating(false)} />
    </div>
  );
}

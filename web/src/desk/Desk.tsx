import { Suspense, useCallback, useMemo, useRef, useState } from "react";
import type { Job, Sheet, View } from "../api/client";
import { useWriting } from "../api/desk";
import { Acts } from "./Acts";
import { part } from "../common/part";
import { frameOf, paperOf, SNAP_PIXELS, type Box, type PaperSize, type SnapLines } from "../paper/geometry";
import { PageBeneath } from "../paper/PageBeneath";
import { MODE_WORDS, useDeskMode } from "../views/mode";
import { NoteCells } from "./NoteCells";
import { Rulers } from "../paper/Rulers";
import { PAD, useZoom } from "../paper/useZoom";
import { ViewLayer } from "./ViewLayer";
import { Written } from "../paper/Written";
import { ZoomHint } from "../paper/ZoomHint";
import * as paperTexts from "../paper/texts";
import * as viewsTexts from "../views/texts";

// what is taken hold of on a sheet comes after what is seen
const Handles = part(async () => (await import("./Handles")).Handles);
const ModeOverlay = part(async () => (await import("./ModeOverlay")).ModeOverlay);
const TitleCells = part(async () => (await import("./TitleCells")).TitleCells);
const Calibrate = part(async () => (await import("../paper/Calibrate")).Calibrate);

interface Props {
  /** A sheet that is released: nothing on it is taken hold of. */
  closed?: boolean;
  notes: Omit<Parameters<typeof NoteCells>[0], "sheet" | "paper" | "zoom">;
  job: Job;
  sheet: Sheet;
  selected: View | null;
  also: readonly string[];
  onSelect: (id: string | null, more?: boolean) => void;
  onMove: (view: View, by: [number, number]) => void;
  onComponents: () => void;
  onCopy: () => void;
  onRemove: () => void;
  onTitle: (fields: Record<string, string>) => void;
  onNote: (place: [number, number], target: [number, number] | null) => void;
  onDimension: (view: string, id: string) => void;
  onRegion: (first: [number, number], second: [number, number]) => void;
  onShift: (by: [number, number]) => void;
  /** Two corners of an area that was drawn on the sheet, what it may snap to, and how near, mm. */
  onArea?: (first: [number, number], second: [number, number], lines: SnapLines, reach: number) => void;
  /** The 3D annotations, each on a layer of its own. */
  fields: (paper: PaperSize, zoom: number, lines: (id: string) => SnapLines) => React.ReactNode;
}

/** The working surface: the sheet as paper, rulers at its edges, its views to select and drag, all that is written on it. */
export function Desk(props: Props) {
  const { job, sheet, selected, also, onSelect } = props;
  const [calibrating, setCalibrating] = useState(false);
  const [dragged, setDragged] = useState(false);
  const told = useRef<HTMLSpanElement>(null);
  // where the hand is goes to the page past React: a drag draws nothing anew but this line
  const tellDrag = useCallback((text: string | null) => {
    setDragged(text !== null);
    if (told.current) told.current.textContent = text;
  }, []);
  const { mode, begin } = useDeskMode();
  const { data: writing } = useWriting(job, sheet.id);
  const paper = paperOf(job, sheet);
  const { frame: element, zoom, ...size } = useZoom(paper, "desk", () => setCalibrating(true));
  const frame = frameOf(job, sheet);
  const width = paper.width * zoom;
  const height = paper.height * zoom;
  const [page, setPage] = useState<SnapLines>();
  const snaps = useMemo(() => {
    const views = Object.entries(writing?.views ?? {}).flatMap(([id, own]) => (own.box ? [{ id, box: own.box }] : []));
    const boxes = [...views, ...sheet.annotations_3d.map(({ id, place: [x, y], size: [w, h] }) => ({ id, box: [x, y, x + w, y + h] as Box }))];
    const edge = writing?.frame_box ?? [0, 0, paper.width, paper.height];
    return (id: string) => {
      const others = boxes.filter((own) => own.id !== id).map((own) => own.box);
      const lines = (a: 0 | 1, b: 2 | 3) => [edge[a], edge[b], (edge[a] + edge[b]) / 2, ...others.flatMap((box) => [box[a], box[b], (box[a] + box[b]) / 2])];
      return { x: [...lines(0, 2), ...(page?.x ?? [])], y: [...lines(1, 3), ...(page?.y ?? [])] };
    };
  }, [writing, sheet.annotations_3d, paper.width, paper.height, page]);
  const surface = { width: width + PAD.left + PAD.right, height: height + PAD.top + PAD.bottom };
  return (
    <div className={dragged ? "desk dragging" : "desk"} ref={element} onPointerDown={() => onSelect(null)}>
      <div className="surface" style={surface}>
        <div className="lift" style={{ left: PAD.left, top: PAD.top, width, height }} />
        <svg className="base" width={surface.width} height={height + PAD.top + 4} role="img" aria-label={paperTexts.sheet(sheet.name)}>
          <g transform={`translate(${PAD.left} ${PAD.top})`}>
            <rect className="paper" width={width} height={height} />
            <PageBeneath sheet={sheet} width={width} height={height} onLines={setPage} />
            <Rulers paper={paper} zoom={zoom} />
            {!writing && frame && (
              <rect
                className="frame-line"
                x={frame[0] * zoom}
                y={(paper.height - frame[3]) * zoom}
                width={(frame[2] - frame[0]) * zoom}
                height={(frame[3] - frame[1]) * zoom}
              />
            )}
            {writing && (
              <g className="furniture" transform={`translate(0 ${height}) scale(${zoom})`}>
                <Written picture={writing.frame} zoom={zoom} />
              </g>
            )}
          </g>
        </svg>
        {sheet.views.map((view) => (
          <ViewLayer
            key={view.id}
            job={job}
            sheet={sheet}
            view={view}
            paper={paper}
            zoom={zoom}
            writing={writing}
            selected={view.id === selected?.id || also.includes(view.id)}
            lines={snaps(view.id)}
            onSelect={(more) => onSelect(view.id, more)}
            onMove={(by) => props.onMove(view, by)}
            onDrag={tellDrag}
          />
        ))}
        {props.fields(paper, zoom, snaps)}
        <Suspense>
          {writing && !mode && !props.closed && <Handles job={job} sheet={sheet} writing={writing} paper={paper} zoom={zoom} onDimension={props.onDimension} />}
          {writing && !mode && !props.closed && <TitleCells sheet={sheet} writing={writing} paper={paper} zoom={zoom} onTitle={props.onTitle} />}
        </Suspense>
        {!mode && <NoteCells sheet={sheet} paper={paper} zoom={zoom} {...props.notes} />}
        <Suspense>
          <ModeOverlay
            key={mode ?? ""}
            job={job}
            sheet={sheet}
            view={selected}
            paper={paper}
            zoom={zoom}
            onMade={(id) => onSelect(id)}
            onNote={props.onNote}
            onRegion={props.onRegion}
            onShift={props.onShift}
            onArea={(first, second) => props.onArea?.(first, second, snaps(""), SNAP_PIXELS / zoom)}
          />
        </Suspense>
        <div className="acts-layer" onPointerDown={(event) => event.stopPropagation()}>
          {selected && !dragged && !mode && !props.closed && <Acts {...props} view={selected} zoom={zoom} paper={paper} desk={element} />}
        </div>
        <p className="hint soft" style={{ paddingLeft: PAD.left }} onPointerDown={(event) => event.stopPropagation()}>
          {mode ? (
            <>
              <strong>{MODE_WORDS[mode]}</strong>
              <button type="button" onClick={() => begin(null)}>
                <kbd>Esc</kbd> {viewsTexts.cancel}
              </button>
            </>
          ) : (
            !dragged && <ZoomHint what={`${sheet.format} ${sheet.orientation}`} {...size} />
          )}
          <span ref={told} hidden={!dragged} />
        </p>
      </div>
      <Suspense>{calibrating && <Calibrate open close={() => setCalibrating(false)} />}</Suspense>
    </div>
  );
}

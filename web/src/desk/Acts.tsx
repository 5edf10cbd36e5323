import { useLayoutEffect, useRef, type RefObject } from "react";
import type { Job, Sheet, View } from "../api/client";
import { detailOf, excerptOf, modelOf } from "../api/content";
import { useOverall, useWriting } from "../api/desk";
import { usePicture } from "../api/queries";
import { boxOf, type Box, type PaperSize } from "../paper/geometry";
import { useDeskMode } from "../views/mode";
import { PAD } from "../paper/useZoom";
import * as texts from "./texts";
import * as viewsTexts from "../views/texts";

interface Props {
  job: Job;
  sheet: Sheet;
  view: View;
  zoom: number;
  paper: PaperSize;
  /** What the surface is seen through. */
  desk: RefObject<HTMLDivElement | null>;
  onComponents: () => void;
  onCopy: () => void;
  onRemove: () => void;
}

const GAP = 12;
type Place = { left: number; top: number };

const shared = (a: Box, b: Box) => Math.max(0, Math.min(a[2], b[2]) - Math.max(a[0], b[0])) * Math.max(0, Math.min(a[3], b[3]) - Math.max(a[1], b[1]));
const within = (v: number, low: number, high: number) => Math.max(Math.min(v, high), low);

/** Under the view, or over it, beside it, or under the sheet: where the words cover least of the other views, in sight. */
function roomFor(size: readonly [number, number], own: Box, others: readonly Box[], seen: Box, below: number): Place {
  const [wide, high] = size;
  const tops = [own[3] + GAP, own[1] - GAP - high, below];
  const places = [...tops.map((top) => ({ left: own[0], top })), { left: own[2] + GAP, top: own[1] }, { left: own[0] - GAP - wide, top: own[1] }].map(
    ({ left, top }) => ({ left: within(left, seen[0], seen[2] - wide), top: within(top, seen[1], seen[3] - high) }),
  );
  const covered = places.map(({ left, top }) => [own, ...others].reduce((sum, box) => sum + shared(box, [left, top, left + wide, top + high]), 0));
  return places[covered.indexOf(Math.min(...covered))]!;
}

/** The words that act on the selected view, near it. */
export function Acts({ job, sheet, view, zoom, paper, desk, onComponents, onCopy, onRemove }: Props) {
  const { data } = usePicture(job, sheet.id, view);
  const { data: writing } = useWriting(job, sheet.id);
  const begin = useDeskMode((state) => state.begin);
  const overall = useOverall(job.id, sheet.id);
  const bar = useRef<HTMLDivElement>(null);
  const box = boxOf(view, data?.picture);
  useLayoutEffect(() => {
    if (!box || !bar.current || !desk.current) return;
    const onScreen = (b: readonly number[]): Box => [
      PAD.left + b[0]! * zoom,
      PAD.top + (paper.height - b[3]!) * zoom,
      PAD.left + b[2]! * zoom,
      PAD.top + (paper.height - b[1]!) * zoom,
    ];
    const others = Object.entries(writing?.views ?? {}).flatMap(([id, own]) => (own.box && id !== view.id ? [onScreen(own.box)] : []));
    const { scrollLeft: x, scrollTop: y, clientWidth, clientHeight } = desk.current;
    // a ticket that lies over the desk leaves less of it in sight
    const over = document.querySelector(".frame.peeks .ticket")?.getBoundingClientRect();
    const wide = over ? Math.min(clientWidth, over.left - desk.current.getBoundingClientRect().left) : clientWidth;
    bar.current.style.maxWidth = `${wide - 16}px`;
    const seen: Box = [x + 8, y + 8, x + wide - 8, y + clientHeight - 8];
    const found = roomFor([bar.current.offsetWidth, bar.current.offsetHeight], onScreen(box), others, seen, PAD.top + paper.height * zoom + 40);
    bar.current.style.left = `${found.left}px`;
    bar.current.style.top = `${found.top}px`;
  });
  if (!box) return null;
  return (
    <div className="acts" ref={bar}>
      {excerptOf(view) && !detailOf(view) && (
        <>
          <button type="button" onClick={() => begin("region")} title="B">
            {texts.area}
          </button>
          <button type="button" onClick={() => begin("shift")} title="S">
            {texts.shiftTheDrawing}
          </button>
        </>
      )}
      {modelOf(view) && (
        <>
          <button type="button" onClick={() => begin("pull")} title="G">
            {texts.projectAView}
          </button>
          <button type="button" onClick={() => begin("section")} title="X">
            {viewsTexts.section}
          </button>
        </>
      )}
      {!(excerptOf(view) && detailOf(view)) && (
        <button type="button" onClick={() => begin("detail")} title="E">
          {viewsTexts.detail}
        </button>
      )}
      {!excerptOf(view) && (
        <button type="button" onClick={() => begin("dimension")} title="D">
          {viewsTexts.dimension}
        </button>
      )}
      <button type="button" onClick={() => overall.mutate(view.id)}>
        {texts.overallSizes}
      </button>
      {modelOf(view) && (
        <button type="button" onClick={onComponents} title="C">
          {texts.components}
        </button>
      )}
      <button type="button" onClick={onCopy} title={texts.ctrlCCtrlVPastes}>
        {texts.copy}
      </button>
      <button type="button" onClick={onRemove} title="Delete">
        {viewsTexts.remove}
      </button>
    </div>
  );
}

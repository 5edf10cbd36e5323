import { useMemo, useRef, useState } from "react";
import { listOf, useProfiles, type PlacedProfile, type ProfilePicture } from "../api/cutting";
import type { Edit, Job, Schemas, Sheet } from "../api/client";
import { mm, type PaperSize } from "../paper/geometry";
import { lying, ProfileShape } from "../paper/PlateOnPaper";
import { PAD } from "../paper/useZoom";
import { distance, laid, outlineOf } from "./nearness";
import * as texts from "./texts";

const SLACK = 3;
const tenth = (v: number) => Math.round(v * 10) / 10;

interface Props {
  job: Job;
  sheet: Sheet;
  paper: PaperSize;
  zoom: number;
  selected: string | undefined;
  /** An arrangement that is being looked for, shown instead. */
  found: readonly Schemas["CuttingContent"][] | null | undefined;
  edit: (edit: Edit) => void;
  onSelect: (part: string) => void;
}

interface Grip {
  id: string;
  x: number;
  y: number;
  by: [number, number];
}

/** What a part that is dragged comes near to: the nearest other part, and how near, mm; below nought they overlap. */
function nearest(moved: PlacedProfile, placed: readonly PlacedProfile[], profiles: Record<string, ProfilePicture>) {
  const own = profiles[moved.part];
  if (!own) return null;
  const outline = laid(outlineOf(own), moved);
  const rows = placed.flatMap((other) => {
    const profile = profiles[other.part];
    return profile && other.id !== moved.id ? [{ other, away: distance(outline, laid(outlineOf(profile), other)) }] : [];
  });
  return rows.length ? rows.reduce((least, row) => (row.away < least.away ? row : least)) : null;
}

/** The parts of a plate on the desk: to select, drag and see how near they come to one another. */
export function PlateLayer({ job, sheet, paper, zoom, selected, found, edit, onSelect }: Props) {
  const list = listOf(job, sheet);
  const { data } = useProfiles(job.id, list);
  const grip = useRef<Grip | null>(null);
  const [held, setHeld] = useState<Grip | null>(null);
  const own = job.document.sheets.filter((other) => other.cutting?.cut_list === list?.id).findIndex((other) => other.id === sheet.id);
  const placed = found?.[own]?.placed ?? sheet.cutting?.placed ?? [];
  const profiles = useMemo(() => data?.profiles ?? {}, [data]);
  const names = useMemo(() => Object.fromEntries((list?.parts ?? []).map((part) => [part.id, part.name])), [list]);
  if (!list || !sheet.cutting) return null;
  const stock = list.plates[sheet.cutting.plate];
  const here = (part: PlacedProfile): PlacedProfile => (held?.id === part.id ? { ...part, x: part.x + held.by[0], y: part.y + held.by[1] } : part);
  const moving = held && placed.find((part) => part.id === held.id);
  const near = moving ? nearest(here(moving), placed, profiles) : null;
  const close = near && near.away < list.choices.gap - 1e-3;
  const hear = (part: PlacedProfile) => ({
    onPointerDown: (event: React.PointerEvent) => {
      if (event.button !== 0 || found) return;
      event.stopPropagation();
      onSelect(part.id);
      grip.current = { id: part.id, x: event.clientX, y: event.clientY, by: [0, 0] };
      event.currentTarget.setPointerCapture(event.pointerId);
    },
    onPointerMove: (event: React.PointerEvent) => {
      const from = grip.current;
      if (!from) return;
      const [dx, dy] = [event.clientX - from.x, event.clientY - from.y];
      if (!held && Math.hypot(dx, dy) < SLACK) return;
      from.by = [tenth(dx / zoom), tenth(-dy / zoom)];
      setHeld({ ...from });
    },
    onPointerUp: () => {
      grip.current = null;
      if (held) edit({ kind: "change_profile", sheet: sheet.id, profile: part.id, fields: { x: part.x + held.by[0], y: part.y + held.by[1] } });
      setHeld(null);
    },
    onPointerCancel: () => {
      grip.current = null;
      setHeld(null);
    },
  });
  return (
    <>
      <svg className={`plate-layer ${found ? "looking" : ""}`} style={{ left: PAD.left, top: PAD.top }} width={paper.width * zoom} height={paper.height * zoom}>
        <g transform={`translate(0 ${paper.height * zoom}) scale(${zoom} ${-zoom})`}>
          {stock && (
            <rect
              className="plate-margin"
              x={stock.edge}
              y={stock.edge}
              width={stock.width - 2 * stock.edge}
              height={stock.height - 2 * stock.edge}
              vectorEffect="non-scaling-stroke"
            />
          )}
          {stock?.remnant.map((ring, index) => (
            <polygon key={index} className="plate-edge" points={ring.map((point) => point.join()).join(" ")} vectorEffect="non-scaling-stroke" />
          ))}
          {placed.map((part) => {
            const profile = profiles[part.part];
            const state = `${part.id === selected ? "selected" : ""} ${part.pinned ? "pinned" : ""} ${held?.id === part.id && close ? "close" : ""}`;
            return (
              profile && (
                <g
                  key={part.id}
                  className={`plate-part ${state}`}
                  transform={lying(here(part))}
                  data-id={part.id}
                  role="button"
                  tabIndex={0}
                  aria-label={texts.partOnPlate(names[part.part] ?? "")}
                  aria-pressed={part.id === selected}
                  onKeyDown={(event) => event.key === "Enter" && onSelect(part.id)}
                  {...hear(part)}
                >
                  <ProfileShape profile={profile} />
                </g>
              )
            );
          })}
        </g>
      </svg>
      {near && moving && (
        <em className={`plate-near ${close ? "close" : ""}`} style={{ left: PAD.left + 8, top: PAD.top + paper.height * zoom + 44 }} role="status">
          {near.away < 0 ? texts.overlaps(names[near.other.part] ?? "") : texts.apart(mm(near.away, 2), names[near.other.part] ?? "")}
        </em>
      )}
    </>
  );
}

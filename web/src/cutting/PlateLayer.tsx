import { useMemo } from "react";
import { drawnOnPlates, listOf, useProfiles, type DecorationPicture, type PlacedProfile, type ProfilePicture } from "../api/cutting";
import type { Edit, Job, Schemas, Sheet } from "../api/client";
import { mm, type PaperSize } from "../paper/geometry";
import { DecorationShape, lying, ProfileShape } from "../paper/PlateOnPaper";
import { PAD } from "../paper/useZoom";
import { apart, boxesApart, boxOf, inPart, laid, snapped, type Box } from "./nearness";
import { ringsOf, type Point } from "./outlines";
import { useGrip } from "./useGrip";
import * as texts from "./texts";

/** What is nearer than this, px, is snapped to. */
const REACH = 8;
/** Places are kept to a tenth where a part is put by the pointer alone, else as fine as this, mm. */
const round = (v: number, steps: number) => Math.round(v * steps) / steps;

interface Props {
  job: Job;
  sheet: Sheet;
  paper: PaperSize;
  zoom: number;
  selected: string | undefined;
  /** The decoration that is selected. */
  drawn: string | null;
  /** An arrangement that is being looked for, shown instead. */
  found: readonly Schemas["CuttingContent"][] | null | undefined;
  edit: (edit: Edit) => void;
  onSelect: (part: string | null, drawn?: string) => void;
}

interface Around {
  placed: readonly PlacedProfile[];
  profiles: Record<string, ProfilePicture>;
}

const ringsAt = (part: PlacedProfile, { profiles }: Around): Point[][] => {
  const own = profiles[part.part];
  return own ? ringsOf(own).map((ring) => laid(ring, part)) : [];
};

/** What a part that is dragged comes near to: the nearest other part, and how near, mm; below nought they overlap. */
function nearest(moved: PlacedProfile, around: Around) {
  const rings = ringsAt(moved, around);
  if (!rings[0]) return null;
  const box = boxOf(rings[0]);
  const rows = around.placed
    .filter((other) => other.id !== moved.id && around.profiles[other.part])
    .map((other) => ({ other, points: ringsAt(other, around) }))
    .map((row) => ({ ...row, least: boxesApart(box, boxOf(row.points[0] ?? [])) }))
    .sort((a, b) => a.least - b.least);
  let found: { other: PlacedProfile; away: number } | null = null;
  for (const { other, points, least } of rows) {
    // the rest is further off still
    if (found && least > found.away) break;
    const { away } = apart(rings, points);
    if (!found || away < found.away) found = { other, away };
  }
  return found;
}

/** A part that is dragged, where it is put: at the gap from its neighbour, or in line with others, unless it goes *free*. */
function put(part: PlacedProfile, by: Point, free: boolean, around: Around, room: Box, gap: number, zoom: number) {
  const moved = { ...part, x: round(part.x + by[0], 10), y: round(part.y + by[1], 10) };
  if (free) return { part: moved, lines: [] };
  const others = around.placed.filter((own) => own.id !== part.id && around.profiles[own.part]).map((own) => ringsAt(own, around));
  const snap = snapped(ringsAt(moved, around), others, room, gap, REACH / zoom);
  return { part: { ...moved, x: round(moved.x + snap.by[0], 1000), y: round(moved.y + snap.by[1], 1000) }, lines: snap.lines };
}

/** What is drawn on something, to drag. */
function Drawn({ drawn, by, selected, hear }: { drawn: DecorationPicture; by: Point; selected: boolean; hear: object }) {
  const [x0, y0, x1, y1] = drawn.box ?? [0, 0, 0, 0];
  return (
    <g className={`plate-drawn ${selected ? "selected" : ""}`} data-drawn={drawn.id} transform={`translate(${by[0]} ${by[1]})`} {...hear}>
      <rect className="drawn-grip" x={x0} y={y0} width={x1 - x0} height={y1 - y0} vectorEffect="non-scaling-stroke" />
      <DecorationShape drawn={drawn} />
    </g>
  );
}

/** Dragging of what is drawn on the parts of a plate, and on the plate itself. */
function useDrawn({ sheet, zoom, found, edit, onSelect }: Props, parts: readonly Schemas["CutPart"][]) {
  const placedOf = (key: string) => sheet.cutting?.placed.find((own) => own.id === key.split("/")[0]);
  return useGrip(
    zoom,
    !!found,
    (key) => onSelect(key.split("/")[0] || null, key.split("/")[1]),
    (key, by) => {
      const placed = placedOf(key);
      const decoration = key.split("/")[1] ?? "";
      const own = placed ? parts.find((part) => part.id === placed.part)?.decorations : sheet.cutting?.decorations;
      const was = own?.find((other) => other.id === decoration);
      const [dx, dy] = inPart(by, placed?.turn ?? 0);
      if (was)
        edit({
          kind: "change_decoration",
          sheet: sheet.id,
          part: placed?.part ?? "",
          decoration,
          fields: { x: round(was.x + dx, 10), y: round(was.y + dy, 10) },
        });
    },
  );
}

/** The parts of a plate on the desk: to select, drag and see how near they come to one another; so is what is drawn on them. */
export function PlateLayer(props: Props) {
  const { job, sheet, paper, zoom, selected, found, edit, onSelect } = props;
  const list = listOf(job, sheet);
  const { data } = useProfiles(job.id, list, drawnOnPlates(job, sheet));
  const own = job.document.sheets.filter((other) => other.cutting?.cut_list === list?.id).findIndex((other) => other.id === sheet.id);
  const lies = found?.[own]?.placed ?? sheet.cutting?.placed;
  const placed = useMemo(() => lies ?? [], [lies]);
  const around = useMemo(() => ({ placed, profiles: data?.profiles ?? {} }), [placed, data]);
  const names = useMemo(() => Object.fromEntries((list?.parts ?? []).map((part) => [part.id, part.name])), [list]);
  const stock = list?.plates[sheet.cutting?.plate ?? 0];
  const room: Box = stock ? [stock.edge, stock.edge, stock.width - stock.edge, stock.height - stock.edge] : [0, 0, paper.width, paper.height];
  const where = (id: string, by: Point, free: boolean) => {
    const part = placed.find((other) => other.id === id);
    return part && put(part, by, free, around, room, list?.choices.gap ?? 0, zoom);
  };
  const parts = useGrip(zoom, !!found, onSelect, (id, by, free) => {
    const there = where(id, by, free)?.part;
    if (there) edit({ kind: "change_profile", sheet: sheet.id, profile: id, fields: { x: there.x, y: there.y } });
  });
  const drawn = useDrawn(props, list?.parts ?? []);
  if (!list || !sheet.cutting) return null;
  const moving = parts.held && where(parts.held.id, parts.held.by, parts.held.free);
  const near = moving ? nearest(moving.part, around) : null;
  const close = near && near.away < list.choices.gap - 1e-3;
  const onPlate = new Set(sheet.cutting.decorations.map((decoration) => decoration.id));
  const drawnBy = (key: string, turn: number): Point => (drawn.held && drawn.held.id.split("/")[1] === key ? inPart(drawn.held.by, turn) : [0, 0]);
  return (
    <>
      <svg className={`plate-layer ${found ? "looking" : ""}`} style={{ left: PAD.left, top: PAD.top }} width={paper.width * zoom} height={paper.height * zoom}>
        <g transform={`translate(0 ${paper.height * zoom}) scale(${zoom} ${-zoom})`}>
          {stock && (
            <rect className="plate-margin" x={room[0]} y={room[1]} width={room[2] - room[0]} height={room[3] - room[1]} vectorEffect="non-scaling-stroke" />
          )}
          {stock?.remnant.map((ring, index) => (
            <polygon key={index} className="plate-edge" points={ring.map((point) => point.join()).join(" ")} vectorEffect="non-scaling-stroke" />
          ))}
          {placed.map((part) => {
            const profile = around.profiles[part.part];
            const held = parts.held?.id === part.id;
            const state = `${part.id === selected ? "selected" : ""} ${part.pinned ? "pinned" : ""} ${held && close ? "close" : ""}`;
            return (
              profile && (
                <g
                  key={part.id}
                  className={`plate-part ${state}`}
                  transform={lying(held && moving ? moving.part : part)}
                  data-id={part.id}
                  role="button"
                  tabIndex={0}
                  aria-label={texts.partOnPlate(names[part.part] ?? "")}
                  aria-pressed={part.id === selected}
                  onKeyDown={(event) => event.key === "Enter" && onSelect(part.id)}
                  {...parts.hear(part.id)}
                >
                  <ProfileShape profile={profile} />
                  {!part.flipped &&
                    profile.decorations.map((one) => {
                      const mine = drawn.held?.id === `${part.id}/${one.id}`;
                      const by = drawnBy(one.id, placed.find((other) => other.id === drawn.held?.id.split("/")[0])?.turn ?? 0);
                      return <Drawn key={one.id} drawn={one} by={by} selected={mine || one.id === props.drawn} hear={drawn.hear(`${part.id}/${one.id}`)} />;
                    })}
                </g>
              )
            );
          })}
          {data?.on_plates.map(
            (one) =>
              onPlate.has(one.id) && (
                <Drawn key={one.id} drawn={one} by={drawnBy(one.id, 0)} selected={one.id === props.drawn} hear={drawn.hear(`/${one.id}`)} />
              ),
          )}
          {moving?.lines.map((line, index) => (
            <line
              key={index}
              className="plate-aligned"
              x1={line.x ?? 0}
              x2={line.x ?? paper.width}
              y1={line.y ?? 0}
              y2={line.y ?? paper.height}
              vectorEffect="non-scaling-stroke"
            />
          ))}
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

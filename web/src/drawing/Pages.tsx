import { Button } from "antd";
import { useRef } from "react";
import type { Schemas } from "../api/client";
import { usePreview } from "../api/drawings";
import { sizeInUnit } from "../common/unit";
import { useSeen } from "../common/useSeen";
import { Section } from "../ticket/Ticket";
import { AsItIs } from "./AsItIs";
import * as texts from "./texts";

type Facts = Schemas["DrawingFacts"];
type Space = Schemas["SpaceFacts"];
type Box = readonly [number, number, number, number];

/** Where a page shows the drawing, as shares of its paper from the upper left: left, top, width, height. */
function frames(space: Space, kind: Facts["kind"]): Box[] {
  if (!space.paper) return [];
  const [width, height] = space.paper;
  const boxes: Box[] = space.excerpts.map(({ region, scale, place }) => {
    const [w, h] = [(region[2] - region[0]) * scale, (region[3] - region[1]) * scale];
    return [place[0] - w / 2, place[1] - h / 2, place[0] + w / 2, place[1] + h / 2];
  });
  if (kind === "pdf" && space.declared) boxes.push(space.declared);
  return boxes.map(([x0, y0, x1, y1]) => [x0 / width, 1 - y1 / height, (x1 - x0) / width, (y1 - y0) / height]);
}

function Preview({ source, space, kind }: { source: string; space: Space; kind: Facts["kind"] }) {
  const place = useRef<HTMLSpanElement>(null);
  const seen = useSeen(place);
  const { data } = usePreview(source, space.name, seen && !!space.paper);
  const [width, height] = space.paper ?? [1, 1];
  return (
    <span ref={place} className="preview" style={{ aspectRatio: `${width} / ${height}` }}>
      {data?.png && <img src={`data:image/png;base64,${data.png}`} alt="" />}
      {frames(space, kind).map(([left, top, w, h], n) => (
        <i key={n} style={{ left: `${left * 100}%`, top: `${top * 100}%`, width: `${w * 100}%`, height: `${h * 100}%` }} />
      ))}
    </span>
  );
}

interface Props {
  job: number;
  source: string;
  facts: Facts;
  at: string;
  onLook: (space: string) => void;
  /** Makes sheets of all pages, where there are some. */
  onAll: () => void;
  busy: boolean;
}

/** The pictures in a file: the drawing itself, and the pages saved in it, small, with what they show of the drawing. */
export function Pages({ job, source, facts, at, onLook, onAll, busy }: Props) {
  const pages = facts.spaces.filter((own) => own.paper && (own.name || facts.kind === "pdf"));
  return (
    <Section title={facts.kind === "pdf" ? texts.pages : texts.pagesInTheFile}>
      <ul className="rows pages" aria-label={texts.pages}>
        {facts.spaces.map((space) => (
          <li key={space.name}>
            <button type="button" className={`row ${space.name === at ? "chosen" : ""}`} aria-pressed={space.name === at} onClick={() => onLook(space.name)}>
              {pages.includes(space) && <Preview source={source} space={space} kind={facts.kind} />}
              <span>
                {space.label}
                <em>
                  {space.paper ? sizeInUnit(space.paper[0], space.paper[1], 0) : texts.strokes(space.strokes)}
                  {space.scale ? `, ${space.scale}` : ""}
                  {space.excerpts.length > 0 && texts.drawingViews(space.excerpts.length === 1 ? "1 drawing view" : `${space.excerpts.length} drawing views`)}
                </em>
              </span>
            </button>
          </li>
        ))}
      </ul>
      {facts.kind === "pdf" && <AsItIs job={job} source={source} space={at} />}
      {pages.length > 0 && (
        <Button onClick={onAll} loading={busy}>
          {pages.length === 1 ? texts.useItsPageAsA : texts.useAllPagesAsSheets(pages.length)}
        </Button>
      )}
    </Section>
  );
}

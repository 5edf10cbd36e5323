import { Button } from "antd";
import type { Job, Schemas, Sheet, View } from "../api/client";
import { cancelWork, drawAgain, readLength, readScale, usePicture, useTrade, useTree } from "../api/queries";
import { BoxChooser } from "../source/BoxChooser";
import { leavesBeneath } from "../source/ComponentTree";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { DirectionField } from "../ticket/DirectionField";
import { TypedField } from "../ticket/TypedField";
import { boxOf, excess, mm, paperOf } from "./geometry";

const EDGES = ["visible", "outline", "hidden", "smooth"] as const;

interface Props {
  job: Job;
  sheet: Sheet;
  view: View;
  change: (fields: Partial<View>) => void;
  move: (by: [number, number]) => void;
  onCentre: () => void;
  onComponents: () => void;
}

/** The facts of a view, each edited where it stands. */
export function ViewTicket({ job, sheet, view, change, move, onCentre, onComponents }: Props) {
  const { data: trade } = useTrade();
  const { data: tree } = useTree(view.source);
  const { data, refetch } = usePicture(job.id, sheet.id, view);
  const box = boxOf(view, data?.picture);
  const paper = paperOf(sheet, trade);
  const source = job.document.sources?.find((s) => s.id === view.source);
  const scale = view.scale ?? "1:1";
  const total = tree?.components.flatMap(leavesBeneath).length ?? 0;
  const hidden = view.hidden?.length ?? 0;
  const over = box ? excess(box, paper) : [];

  const look = (v: Schemas["ViewpointView"]) => change({ name: v.name, look: v.look, up: v.up });
  const readPlace = async (text: string) => mm((await readLength(text)).mm);
  const moveTo = (axis: 0 | 1, text: string) => {
    if (!box) return;
    const by = Number(text) - box[axis];
    move(axis === 0 ? [by, 0] : [0, by]);
  };
  const setEdge = (edge: (typeof EDGES)[number]) => {
    const now = view.classes ?? [];
    change({ classes: now.includes(edge) ? now.filter((c) => c !== edge) : [...now, edge] });
  };

  return (
    <Ticket title={`${view.name.charAt(0).toUpperCase()}${view.name.slice(1)} view`} under={`of ${source?.name ?? "a source that is gone"}`}>
      <Fact name="Scale">
        <TypedField label="Scale" value={scale} read={async (text) => (await readScale(text)).scale} onChange={(s) => change({ scale: s })} />
      </Fact>
      <Fact name="On paper">{box ? `${mm(box[2] - box[0])} × ${mm(box[3] - box[1])} mm` : "nothing drawn yet"}</Fact>
      <Fact name="Place">
        {box && (
          <span className="pair">
            x <TypedField label="Place, x" value={mm(box[0])} read={readPlace} onChange={(text) => moveTo(0, text)} />
            y <TypedField label="Place, y" value={mm(box[1])} read={readPlace} onChange={(text) => moveTo(1, text)} />
          </span>
        )}
      </Fact>
      <Fact name="Looks along">
        <DirectionField name={view.name} onChoose={look} />
      </Fact>
      <Section title="Which way it looks">
        <BoxChooser look={view.look as never} up={view.up as never} onChoose={look} />
      </Section>
      <Section title="Edges">
        <div className="chips">
          {EDGES.map((edge) => (
            <button key={edge} type="button" aria-pressed={view.classes?.includes(edge)} onClick={() => setEdge(edge)}>
              {edge}
            </button>
          ))}
        </div>
      </Section>
      <Section title="Components">
        {total - hidden} of {total} shown{" "}
        <Button type="link" size="small" onClick={onComponents}>
          choose
        </Button>
      </Section>
      {(data?.work?.state === "queued" || data?.work?.state === "running") && (
        <Note tone="info" title={`${data.work.text || "Starting"} …`}>
          <Button type="link" size="small" onClick={() => void cancelWork(data.key as string).then(() => refetch())}>
            Call off
          </Button>
        </Note>
      )}
      {data?.work?.state === "cancelled" && (
        <Note tone="warning" title="This view was called off before it was drawn.">
          <Button type="link" size="small" onClick={() => void drawAgain(job.id, sheet.id, view.id).then(() => refetch())}>
            Draw it
          </Button>
        </Note>
      )}
      {data?.work?.state === "failed" && <Note tone="error" title="This view cannot be drawn.">{data.work.error}</Note>}
      {over.length > 0 && (
        <Note tone="warning" title={`It leaves the sheet by ${over.map((o) => `${mm(o.by, 2)} mm at the ${o.side}`).join(", ")}.`}>
          Take a smaller scale or a larger sheet, or{" "}
          <Button type="link" size="small" onClick={onCentre}>
            centre it
          </Button>
        </Note>
      )}
      {trade && !trade.scales.includes(scale) && (
        <Note tone="info" title={`${scale} is not a preferred scale.`}>ISO 5455 prefers 1, 2 and 5 and their tens.</Note>
      )}
      {hidden > 0 && <Note tone="info" title={`${hidden} component${hidden === 1 ? "" : "s"} taken out of this view.`} />}
    </Ticket>
  );
}

import { Button, Segmented } from "antd";
import { useNavigate } from "react-router";
import type { Edit, Job, Region, Schemas, Sheet, View, Writing } from "../api/client";
import { excerptOf } from "../api/content";
import { useDrawing } from "../api/drawings";
import { newId } from "../api/ids";
import { readLength, useEdit, usePicture, useTrade } from "../api/queries";
import { AngleField } from "../ticket/AngleField";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { Artwork } from "../sheets/Artwork";
import { boxOf, mm, ratio } from "../sheets/geometry";
import { useDeskMode } from "../sheets/mode";
import { DimensionFacts } from "../sheets/DimensionList";
import { PlaceFacts } from "../sheets/PlaceFacts";
import { ScaleFacts } from "../sheets/ScaleFacts";
import { Told } from "../sheets/Told";
import { WorkNotes } from "../sheets/WorkNotes";
import { Distance } from "./Distance";
import { ExcerptTexts } from "./ExcerptTexts";
import { LayerList } from "./LayerList";

interface Props {
  job: Job;
  sheet: Sheet;
  view: View;
  writing: Writing | undefined;
  change: (fields: Schemas["ViewPatch"]) => void;
  edit: (edit: Edit) => void;
  move: (by: [number, number]) => void;
  onCentre: () => void;
  open: string | null;
  setOpen: (id: string | null) => void;
}

/** Four figures of a rectangle as typed: left, bottom, right, top. */
async function readRegion(text: string): Promise<string> {
  const parts = text.split(/[,;]/).map((part) => part.trim());
  if (parts.length !== 4) throw new Error(`“${text}” is not an area: write left, bottom, right, top in mm of the drawing.`);
  const values = await Promise.all(parts.map(async (part) => (await readLength(part)).mm));
  if (values[2]! <= values[0]! || values[3]! <= values[1]!) throw new Error("Right must be over left, and top over bottom.");
  return values.map((v) => mm(v)).join(", ");
}

/** The facts of an excerpt of a drawing, each edited where it stands. */
export function ExcerptTicket({ job, sheet, view, writing, change, edit, move, onCentre, open, setOpen }: Props) {
  const navigate = useNavigate();
  const { data: trade } = useTrade();
  const { data: drawing } = useDrawing(job, view.source);
  const { data, refetch } = usePicture(job.id, sheet.id, view);
  const begin = useDeskMode((state) => state.begin);
  const changes = useEdit(job.id);
  const source = job.document.sources.find((s) => s.id === view.source);
  const excerpt = excerptOf(view) as Schemas["Excerpt"];
  const box = writing?.views[view.id]?.box ?? boxOf(view, data?.picture);
  const region = excerpt.region as Region | null;
  const s = ratio(view.scale);
  const set = (fields: Schemas["ExcerptPatch"]) => edit({ kind: "change_excerpt", sheet: sheet.id, view: view.id, fields });
  const on = { sheet: sheet.id, view: view.id };
  const duplicate = (shift: [number, number]) => {
    const fresh = newId();
    changes.mutate({ kind: "duplicate_sheet", sheet: sheet.id, new: fresh, name: "", shift }, { onSuccess: () => void navigate(`/jobs/${job.id}/sheets/${fresh}`) });
  };
  return (
    <Ticket title={`Drawing view ${view.name}`} under={`of ${source?.name ?? "a missing source"}${excerpt.space ? `, ${excerpt.space}` : ""}`}>
      <Fact name="Name">
        <TypedField label="View name" value={view.name} read={async (t) => t.trim() || view.name} onChange={(name) => change({ name })} />
      </Fact>
      <ScaleFacts job={job} sheet={sheet} view={view} change={change} />
      <Fact name="Area">
        {region ? (
          <TypedField
            label="Area of the drawing"
            value={region.map((v) => mm(v)).join(", ")}
            read={readRegion}
            onChange={(text) => set({ region: text.split(",").map(Number) as Region })}
          />
        ) : (
          "Everything drawn"
        )}
      </Fact>
      <p className="soft small region-acts">
        {region ? `${mm(region[2] - region[0])} × ${mm(region[3] - region[1])} mm of the drawing, ` : ""}
        {region ? `${mm((region[2] - region[0]) * s)} × ${mm((region[3] - region[1]) * s)} mm on paper` : box ? `${mm(box[2] - box[0])} × ${mm(box[3] - box[1])} mm on paper` : ""}{" "}
        <Button type="link" size="small" onClick={() => begin("region")}>
          Pick area
        </Button>
        {region && (
          <Button type="link" size="small" onClick={() => set({ region: null })}>
            Everything drawn
          </Button>
        )}
      </p>
      {drawing?.facts.kind === "pdf" && (
        <Fact name="Written">
          <Segmented size="small" aria-label="How the page is written" value={excerpt.strokes} onChange={(strokes) => set({ strokes })} options={[{ value: false, label: "as it is" }, { value: true, label: "in strokes" }]} />
        </Fact>
      )}
      <PlaceFacts box={box} move={move} />
      <Fact name="Rotation">
        <AngleField label="Rotation" value={view.turn} onChange={(turn) => change({ turn })} />
      </Fact>
      <DimensionFacts sheet={sheet.id} view={view} writing={writing} edit={edit} open={open} setOpen={setOpen} />
      <Section title="Shift the drawing by">
        <Distance label="Shift the drawing by" act="Shift" onTake={(by) => edit({ kind: "shift_excerpt", sheet: sheet.id, view: view.id, by })} />
        <p className="soft small">In mm of the drawing; or drag it with Shift the drawing</p>
      </Section>
      <Section title="Copy sheet, shifted by">
        <Distance label="Copy sheet, shifted by" act="Copy" onTake={duplicate} />
        <p className="soft small">To bring the next storey to the same position: if it lies 20 m above, write 0, -20m</p>
      </Section>
      <Section title="Layers">
        {drawing && <LayerList layers={drawing.facts.layers} off={excerpt.off} styles={excerpt.styles} onSwitch={(layers, shown) => edit({ kind: "switch_layers", ...on, layers, on: shown })} onStyle={(layer, style) => edit({ kind: "style_layer", ...on, layer, style })} />}
      </Section>
      <ExcerptTexts job={job.id} sheet={sheet.id} view={view} pdf={drawing?.facts.kind === "pdf"} edit={edit} />
      <Artwork job={job.id} sheet={sheet.id} view={view.id} what="this drawing view" />
      <WorkNotes job={job.id} sheet={sheet.id} view={view.id} what="drawing view" state={data} again={() => void refetch()} />
      <Told writing={writing} view={view.id}>
        <Button type="link" size="small" onClick={onCentre}>
          Centre it on the sheet
        </Button>
      </Told>
      {trade && !trade.scales.includes(view.scale) && (
        <Note tone="info" title={`${view.scale} is not a preferred scale.`}>
          ISO 5455 prefers 1, 2 and 5 and their tens.
        </Note>
      )}
    </Ticket>
  );
}

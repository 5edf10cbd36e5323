import { useCutter } from "../api/cutting";
import { Button, Segmented } from "antd";
import { useNavigate } from "react-router";
import type { Edit, Job, Region, Schemas, Sheet, View, Writing } from "../api/client";
import { excerptOf } from "../api/content";
import { useDrawing } from "../api/drawings";
import { newId } from "../common/ids";
import { useEdit, usePicture, useTrade } from "../api/queries";
import { AngleField } from "../views/AngleField";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { Artwork } from "../views/Artwork";
import { sizeInUnit } from "../common/unit";
import { boxOf, ratio } from "../paper/geometry";
import { LengthsField } from "../views/LengthsField";
import { useDeskMode } from "../views/mode";
import { DimensionFacts } from "../views/DimensionList";
import { PlaceFacts } from "../views/PlaceFacts";
import { ScaleFacts } from "../views/ScaleFacts";
import { Notices } from "../views/Notices";
import { WorkNotes } from "../views/WorkNotes";
import { Distance } from "./Distance";
import { ExcerptTexts } from "./ExcerptTexts";
import { LayerList } from "./LayerList";
import * as texts from "./texts";

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
function checkRegion(values: number[], text: string): number[] {
  if (values.length !== 4) throw new Error(texts.isNotAnAreaWrite(text));
  if (values[2]! <= values[0]! || values[3]! <= values[1]!) throw new Error(texts.rightMustBeOverLeft);
  return values;
}

/** The facts of an excerpt of a drawing, each edited where it stands. */
export function ExcerptTicket({ job, sheet, view, writing, change, edit, move, onCentre, open, setOpen }: Props) {
  const navigate = useNavigate();
  const { data: cutter } = useCutter();
  const { data: trade } = useTrade();
  const { data: drawing } = useDrawing(job, view.source);
  const { data, refetch } = usePicture(job, sheet.id, view);
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
    changes.mutate(
      { kind: "duplicate_sheet", sheet: sheet.id, new: fresh, name: "", shift },
      { onSuccess: () => void navigate(`/jobs/${job.id}/sheets/${fresh}`) },
    );
  };
  return (
    <Ticket title={texts.drawingView(view.name)} under={texts.ofWord(source?.name ?? "a missing source", excerpt.space ? `, ${excerpt.space}` : "")}>
      <Notices writing={writing} view={view.id}>
        <Button type="link" size="small" onClick={onCentre}>
          {texts.centreItOnTheSheet}
        </Button>
      </Notices>
      <Fact name={texts.name}>
        <TypedField label={texts.viewName} value={view.name} read={async (t) => t.trim() || view.name} onChange={(name) => change({ name })} />
      </Fact>
      <ScaleFacts job={job} sheet={sheet} view={view} change={change} />
      <Fact name={texts.area}>
        {region ? (
          <LengthsField label={texts.areaOfTheDrawing} values={region} check={checkRegion} onChange={(own) => set({ region: own as Region })} />
        ) : (
          texts.everythingDrawn
        )}
      </Fact>
      <p className="soft small region-acts">
        {region ? texts.sizeOfTheDrawing(sizeInUnit(region[2] - region[0], region[3] - region[1], 3)) : ""}
        {region
          ? texts.sizeOnPaper(sizeInUnit((region[2] - region[0]) * s, (region[3] - region[1]) * s, 3))
          : box
            ? texts.sizeOnPaper(sizeInUnit(box[2] - box[0], box[3] - box[1], 3))
            : ""}{" "}
        <Button type="link" size="small" onClick={() => begin("region")}>
          {texts.pickArea}
        </Button>
        {region && (
          <Button type="link" size="small" onClick={() => set({ region: null })}>
            {texts.everythingDrawn}
          </Button>
        )}
      </p>
      {drawing?.facts.kind === "pdf" && (
        <Fact name={texts.written}>
          <Segmented
            size="small"
            aria-label={texts.howThePageIsWritten}
            value={excerpt.strokes}
            onChange={(strokes) => set({ strokes })}
            options={[
              { value: false, label: texts.asItIs },
              { value: true, label: texts.inStrokes },
            ]}
          />
        </Fact>
      )}
      <PlaceFacts box={box} move={move} />
      <Fact name={texts.rotation}>
        <AngleField label={texts.rotation} value={view.rotation} onChange={(turn) => change({ rotation: turn })} />
      </Fact>
      <DimensionFacts sheet={sheet.id} view={view} writing={writing} edit={edit} open={open} setOpen={setOpen} />
      <Section title={texts.shiftTheDrawingBy}>
        <Distance label={texts.shiftTheDrawingBy} act={texts.shift} onTake={(by) => edit({ kind: "shift_excerpt", sheet: sheet.id, view: view.id, by })} />
        <p className="soft small">{texts.inMmOfTheDrawing}</p>
      </Section>
      <Section title={texts.copySheetShiftedBy}>
        <Distance label={texts.copySheetShiftedBy} act={texts.copySheet} onTake={duplicate} />
        <p className="soft small">{texts.toBringTheNextStorey}</p>
      </Section>
      <Section title={texts.layers}>
        {drawing && (
          <LayerList
            layers={drawing.facts.layers}
            off={excerpt.off}
            styles={excerpt.styles}
            onSwitch={(layers, shown) => edit({ kind: "switch_layers", ...on, layers, on: shown })}
            onStyle={(layer, style) => edit({ kind: "style_layer", ...on, layer, style })}
            codes={sheet.recipe === "cutter" ? cutter?.codes : undefined}
          />
        )}
      </Section>
      <ExcerptTexts job={job.id} sheet={sheet.id} view={view} pdf={drawing?.facts.kind === "pdf"} edit={edit} />
      <Artwork job={job.id} sheet={sheet.id} view={view.id} what={texts.thisDrawingView} />
      <WorkNotes job={job.id} sheet={sheet.id} view={view.id} what={texts.drawingView2} state={data} again={() => void refetch()} />
      {trade && !trade.scales.includes(view.scale) && (
        <Note tone="info" title={texts.isNotAPreferredScale(view.scale)}>
          {texts.iso5455Prefers12}
        </Note>
      )}
    </Ticket>
  );
}

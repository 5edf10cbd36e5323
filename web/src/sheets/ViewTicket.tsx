import { Button, Select } from "antd";
import { useState } from "react";
import type { Edit, Job, Schemas, Sheet, View, Writing } from "../api/client";
import { titleOf } from "./titles";
import { detailOf, hiddenOf, modelOf, sectionOf } from "../api/content";
import { usePicture, useTrade, useTree } from "../api/queries";
import { BoxChooser } from "../source/BoxChooser";
import { leavesBeneath } from "../source/components";
import { DirectionField } from "../ticket/DirectionField";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { AngleField } from "../ticket/AngleField";
import { ComponentsPicker } from "./ComponentsPicker";
import { DimensionFacts, DimensionKinds } from "./DimensionList";
import { Artwork } from "./Artwork";
import { boxOf, mm } from "./geometry";
import { useDeskMode } from "./mode";
import { PlaceFacts } from "./PlaceFacts";
import { ScaleFacts } from "./ScaleFacts";
import { Told } from "./Told";
import { ViewChips } from "./ViewChips";
import { WorkNotes } from "./WorkNotes";

interface Props {
  job: Job;
  sheet: Sheet;
  view: View;
  writing: Writing | undefined;
  change: (fields: Schemas["ViewPatch"]) => void;
  edit: (edit: Edit) => void;
  move: (by: [number, number]) => void;
  onCentre: () => void;
  onComponents: () => void;
  open: string | null;
  setOpen: (id: string | null) => void;
}

/** The facts of a view, each edited where it stands. */
export function ViewTicket({ job, sheet, view, writing, change, edit, move, onCentre, onComponents, open, setOpen }: Props) {
  const { data: trade } = useTrade();
  const { data: tree } = useTree(view.source);
  const { data, refetch } = usePicture(job.id, sheet.id, view);
  const mode = useDeskMode((state) => state.mode);
  const [uncut, setUncut] = useState(false);
  const box = writing?.views[view.id]?.box ?? boxOf(view, data?.picture);
  const source = job.document.sources.find((s) => s.id === view.source);
  const parent = sheet.views.find((v) => v.id === view.parent);
  const total = tree?.components.flatMap(leavesBeneath).length ?? 0;
  const model = modelOf(view);
  const hidden = hiddenOf(view).length;
  const detail = detailOf(view);
  const section = detail ? null : sectionOf(view);

  const look = (v: Pick<Schemas["ViewpointView"], "name" | "look" | "up">) => change({ name: v.name, look: v.look, up: v.up });
  return (
    <Ticket title={titleOf(view)} under={`of ${source?.name ?? "a missing source"}${parent ? `, from the ${parent.name} view` : ""}`}>
      <ScaleFacts job={job} sheet={sheet} view={view} change={change} />
      <Fact name="Size on paper">{box ? `${mm(box[2] - box[0])} × ${mm(box[3] - box[1])} mm` : "Nothing drawn yet"}</Fact>
      <PlaceFacts box={box} move={move} />
      {!parent && (
        <Fact name="Rotation">
          <AngleField label="Rotation" value={view.turn} onChange={(turn) => change({ turn })} />
        </Fact>
      )}
      {parent && !detail && (
        <Fact name="Alignment">
          {view.own.includes("place") ? "not linked" : `with the ${parent.name} view`}
          <Button type="link" size="small" onClick={() => change({ own: view.own.includes("place") ? view.own.filter((o) => o !== "place") : [...view.own, "place"] })}>
            {view.own.includes("place") ? "Relink" : "Unlink"}
          </Button>
        </Fact>
      )}
      {mode === "dimension" && (
        <Section title="The next dimension">
          <DimensionKinds />
        </Section>
      )}
      <DimensionFacts sheet={sheet.id} view={view} writing={writing} edit={edit} open={open} setOpen={setOpen} />
      {section && (
        <Section title="Section">
          <div className="chips">
            <button type="button" aria-pressed={section.hatched} onClick={() => change({ section: { ...section, hatched: !section.hatched } })}>
              hatching
            </button>
            <button type="button" onClick={() => change({ section: { ...section, start: section.end, end: section.start } })}>
              Reverse direction
            </button>
          </div>
          {section.uncut.length} not sectioned{" "}
          <Button type="link" size="small" onClick={() => setUncut(true)}>
            choose
          </Button>
          <ComponentsPicker
            job={job}
            view={{ ...view, hidden: section.uncut }}
            title="Parts that are sectioned"
            open={uncut}
            close={() => setUncut(false)}
            onHidden={(paths) => change({ section: { ...section, uncut: paths } })}
          />
        </Section>
      )}
      {model && !section && !detail && (
        <Section title="View direction">
          <Fact name="Direction">
            <DirectionField name={view.name} onChoose={look} />
          </Fact>
          <BoxChooser look={model.look as never} up={model.up as never} arrangement={sheet.arrangement} onChoose={look} />
          {job.document.viewpoints.length > 0 && (
            <Select
              aria-label="Saved viewpoints"
              className="wide"
              placeholder="Saved viewpoints"
              value={view.viewpoint ?? null}
              onChange={(id) => {
                const saved = job.document.viewpoints.find((v) => v.id === id);
                if (saved) change({ name: saved.name, look: saved.look, up: saved.up, viewpoint: saved.id });
              }}
              options={job.document.viewpoints.map((v) => ({ value: v.id, label: v.name }))}
            />
          )}
        </Section>
      )}
      {model && (
        <>
          <ViewChips view={view} change={change} />
          <Section title="Components">
            {total - hidden} of {total} shown{" "}
            <Button type="link" size="small" onClick={onComponents}>
              choose
            </Button>
            {parent && !detail && view.own.includes("components") && (
              <Button type="link" size="small" onClick={() => change({ own: view.own.filter((o) => o !== "components") })}>
                as its parent
              </Button>
            )}
          </Section>
        </>
      )}
      <Artwork job={job.id} sheet={sheet.id} view={view.id} what="this view" />
      <WorkNotes job={job.id} sheet={sheet.id} view={view.id} what="view" state={data} again={() => void refetch()} />
      <Told writing={writing} view={view.id}>
        <Button type="link" size="small" onClick={onCentre}>
          Centre it on the sheet
        </Button>
      </Told>
      {trade && !trade.scales.includes(view.scale) && (
        <Note tone="info" title={`${view.scale} is not a preferred scale.`}>ISO 5455 prefers 1, 2 and 5 and their tens.</Note>
      )}
      {hidden > 0 && <Note tone="info" title={`${hidden} component${hidden === 1 ? "" : "s"} hidden in this view.`} />}
    </Ticket>
  );
}

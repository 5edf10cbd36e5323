import { Button, Select } from "antd";
import { useState } from "react";
import { sizeInUnit } from "../common/unit";
import type { Edit, Job, Schemas, Sheet, View, Writing } from "../api/client";
import { detailOf, hiddenOf, modelOf, sectionOf } from "../api/content";
import { usePicture, useTrade, useTree } from "../api/queries";
import { BoxChooser } from "../components/BoxChooser";
import { leavesBeneath } from "../components/components";
import { DirectionField } from "../views/DirectionField";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { AngleField } from "../views/AngleField";
import { ComponentsPicker } from "../components/ComponentsPicker";
import { DimensionFacts, DimensionKinds } from "../views/DimensionList";
import { Artwork } from "../views/Artwork";
import { boxOf } from "../paper/geometry";
import { useDeskMode } from "../views/mode";
import { PlaceFacts } from "../views/PlaceFacts";
import { ScaleFacts } from "../views/ScaleFacts";
import { Notices } from "../views/Notices";
import { ViewChips } from "./ViewChips";
import { WorkNotes } from "../views/WorkNotes";
import * as texts from "./texts";
import * as deskTexts from "../desk/texts";
import * as viewsTexts from "../views/texts";
import * as componentsTexts from "../components/texts";
import * as paperTexts from "../paper/texts";

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

const capital = (text: string) => `${text.charAt(0).toUpperCase()}${text.slice(1)}`;

/** The facts of a view, each edited where it stands. */
export function ViewTicket({ job, sheet, view, writing, change, edit, move, onCentre, onComponents, open, setOpen }: Props) {
  const { data: trade } = useTrade();
  const { data: tree } = useTree(view.source);
  const { data, refetch } = usePicture(job, sheet.id, view);
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
    <Ticket
      title={capital(job.sheets[sheet.id]?.views[view.id]?.title ?? view.name)}
      under={texts.ofView(source?.name ?? "a missing source", parent ? `, from the ${parent.name} view` : "")}
    >
      <Notices writing={writing} view={view.id}>
        <Button type="link" size="small" onClick={onCentre}>
          {texts.centreItOnTheSheet}
        </Button>
      </Notices>
      <ScaleFacts job={job} sheet={sheet} view={view} change={change} />
      <Fact name={texts.sizeOnPaper}>{box ? sizeInUnit(box[2] - box[0], box[3] - box[1], 3) : texts.nothingDrawnYet}</Fact>
      <PlaceFacts box={box} move={move} />
      {!parent && (
        <Fact name={texts.rotation2}>
          <AngleField label={texts.rotation2} value={view.rotation} onChange={(turn) => change({ rotation: turn })} />
        </Fact>
      )}
      {parent && !detail && (
        <Fact name={texts.alignment}>
          {view.overrides.includes("place") ? texts.notLinked : texts.withTheView(parent.name)}
          <Button
            type="link"
            size="small"
            onClick={() => change({ overrides: view.overrides.includes("place") ? view.overrides.filter((o) => o !== "place") : [...view.overrides, "place"] })}
          >
            {view.overrides.includes("place") ? texts.relink : texts.unlink}
          </Button>
        </Fact>
      )}
      {mode === "dimension" && (
        <Section title={texts.theNextDimension}>
          <DimensionKinds />
        </Section>
      )}
      <DimensionFacts sheet={sheet.id} view={view} writing={writing} edit={edit} open={open} setOpen={setOpen} />
      {section && (
        <Section title={viewsTexts.section}>
          <div className="chips">
            <button type="button" aria-pressed={section.hatched} onClick={() => change({ section: { ...section, hatched: !section.hatched } })}>
              {texts.hatching}
            </button>
            <button type="button" onClick={() => change({ section: { ...section, start: section.end, end: section.start } })}>
              {texts.reverseDirection}
            </button>
          </div>
          {section.uncut.length} {texts.notSectioned}{" "}
          <Button type="link" size="small" onClick={() => setUncut(true)}>
            {texts.choose}
          </Button>
          <ComponentsPicker
            job={job}
            view={{ ...view, hidden: section.uncut }}
            title={texts.partsThatAreSectioned}
            open={uncut}
            close={() => setUncut(false)}
            onHidden={(paths) => change({ section: { ...section, uncut: paths } })}
          />
        </Section>
      )}
      {model && !section && !detail && (
        <Section title={texts.viewDirection}>
          <Fact name={texts.direction}>
            <DirectionField name={view.name} onChoose={look} />
          </Fact>
          <BoxChooser look={model.look} up={model.up} arrangement={sheet.arrangement} onChoose={look} />
          {job.document.viewpoints.length > 0 && (
            <Select
              aria-label={texts.savedViewpoints}
              className="wide"
              placeholder={texts.savedViewpoints}
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
          <Section title={deskTexts.components}>
            {total - hidden} {componentsTexts.ofWord} {total} {paperTexts.shown}{" "}
            <Button type="link" size="small" onClick={onComponents}>
              {texts.choose}
            </Button>
            {parent && !detail && view.overrides.includes("components") && (
              <Button type="link" size="small" onClick={() => change({ overrides: view.overrides.filter((o) => o !== "components") })}>
                {texts.asItsParent}
              </Button>
            )}
          </Section>
        </>
      )}
      <Artwork job={job.id} sheet={sheet.id} view={view.id} what={texts.thisView} />
      <WorkNotes job={job.id} sheet={sheet.id} view={view.id} what={texts.view2} state={data} again={() => void refetch()} />
      {trade && !trade.scales.includes(view.scale) && (
        <Note tone="info" title={texts.isNotAPreferredScale(view.scale)}>
          {texts.iso5455Prefers12}
        </Note>
      )}
      {hidden > 0 && <Note tone="info" title={texts.componentHiddenInThisView(hidden, hidden === 1 ? "" : "s")} />}
    </Ticket>
  );
}

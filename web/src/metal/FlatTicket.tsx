import { Button } from "antd";
import { useState } from "react";
import type { Edit, Job, Schemas, Sheet, View, Writing } from "../api/client";
import { flatOf } from "../api/content";
import { usePattern } from "../api/metal";
import { usePicture } from "../api/queries";
import { boxOf } from "../paper/geometry";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { AngleField } from "../views/AngleField";
import { Artwork } from "../views/Artwork";
import { DimensionFacts, DimensionKinds } from "../views/DimensionList";
import { useDeskMode } from "../views/mode";
import { Notices } from "../views/Notices";
import { PlaceFacts } from "../views/PlaceFacts";
import { ScaleFacts } from "../views/ScaleFacts";
import { WorkNotes } from "../views/WorkNotes";
import { BendRows } from "./BendRows";
import { DxfAct } from "./DxfAct";
import { FlatPicture } from "./FlatPicture";
import { LimitFields } from "./LimitFields";
import { PatternNotes, PatternNumbers } from "./PatternNumbers";
import { RuleFields } from "./RuleFields";
import "./metal.css";
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

/** The facts of a flat pattern on a sheet, each edited where it stands. */
export function FlatTicket({ job, sheet, view, writing, change, edit, move, onCentre, open, setOpen }: Props) {
  const flat = flatOf(view);
  const [lit, setLit] = useState<number | null>(null);
  const { data: picture, refetch } = usePicture(job, sheet.id, view);
  const mode = useDeskMode((state) => state.mode);
  const { data } = usePattern(view.source, flat?.component ?? "", flat?.choices as Schemas["UnfoldChoices"]);
  if (!flat) return null;
  const box = writing?.views[view.id]?.box ?? boxOf(view, picture?.picture);
  const patch = (fields: Schemas["FlatPatch"]) => edit({ kind: "change_flat", sheet: sheet.id, view: view.id, fields });
  const choose = (choices: Schemas["UnfoldChoices"]) => patch({ choices });
  const failed = data?.work?.state === "failed" ? data.work.error : "";
  return (
    <Ticket title={view.name} under={`${texts.flat}, ${job.document.sources.find((own) => own.id === view.source)?.name ?? ""}`}>
      <Notices writing={writing} view={view.id}>
        <Button type="link" size="small" onClick={onCentre}>
          {texts.centreItOnTheSheet}
        </Button>
      </Notices>
      <ScaleFacts job={job} sheet={sheet} view={view} change={change} />
      <PlaceFacts box={box} move={move} />
      <Fact name={texts.rotation2}>
        <AngleField label={texts.rotation2} value={view.rotation} onChange={(rotation) => change({ rotation })} />
      </Fact>
      <Section title={texts.onTheSheet}>
        <div className="chips">
          <button type="button" aria-pressed={flat.note} onClick={() => patch({ note: !flat.note })}>
            {texts.bendNotes}
          </button>
          <button type="button" aria-pressed={flat.limits} onClick={() => patch({ limits: !flat.limits })}>
            {texts.bendLimits}
          </button>
          <button type="button" aria-pressed={!!flat.bends} onClick={() => patch({ bends: flat.bends ? null : {} })}>
            {texts.bendTable}
          </button>
          <button type="button" aria-pressed={flat.grain} onClick={() => patch({ grain: !flat.grain })}>
            {texts.grain}
          </button>
          <button type="button" aria-pressed={!!view.holes} onClick={() => change({ holes: view.holes ? null : {} })}>
            {texts.holes}
          </button>
        </div>
      </Section>
      <Section title={texts.changeUnfolding}>
        <RuleFields choices={flat.choices} change={choose} bases={data?.pattern?.facts.bases ?? []} />
        <LimitFields choices={flat.choices} change={choose} />
        {failed && <Note tone="error" title={failed} />}
        {data?.pattern && (
          <>
            <FlatPicture pattern={data.pattern} lit={lit} onLit={setLit} />
            <BendRows pattern={data.pattern} choices={flat.choices} change={choose} lit={lit} onLit={setLit} />
            <PatternNumbers pattern={data.pattern} />
            <PatternNotes pattern={data.pattern} />
            <DxfAct source={view.source} component={flat.component} choices={flat.choices} sideB={data.pattern.features.some((own) => own.side === "b")} />
          </>
        )}
      </Section>
      {mode === "dimension" && (
        <Section title={texts.theNextDimension}>
          <DimensionKinds />
        </Section>
      )}
      <DimensionFacts sheet={sheet.id} view={view} writing={writing} edit={edit} open={open} setOpen={setOpen} />
      <Artwork job={job.id} sheet={sheet.id} view={view.id} what={texts.thisView} />
      <WorkNotes job={job.id} sheet={sheet.id} view={view.id} what={texts.view2} state={picture} again={() => void refetch()} />
    </Ticket>
  );
}

import { Button } from "antd";
import { useCallback, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Drawing, Job, Region, Schemas } from "../api/client";
import { useDrawing, useDrawingPoints, usePutExcerpt, usePutPage, usePutPages, useSpacePicture } from "../api/drawings";
import { useEdit } from "../api/queries";
import { CutAct } from "../cutting/CutAct";
import { Revision } from "../intake/Revision";
import { useCommands } from "../common/commands";
import { MainAct } from "../shell/JobFrame";
import { sizeInUnit } from "../common/unit";
import { mm, ratio } from "../paper/geometry";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { AreaToPut, type What } from "./AreaToPut";
import { DrawingPane, type PaneMode } from "./DrawingPane";
import { Fonts, Lost } from "./DrawingFacts";
import { LayerList } from "./LayerList";
import { Pages } from "./Pages";
import { useTargetSheet } from "../intake/target";
import { ScaleQuestion, UnitQuestion } from "./Questions";
import * as texts from "./texts";

const UNITS: Record<number, string> = { 1: texts.millimetres, 10: texts.centimetres, 1000: texts.metres, 25.4: texts.inches, 304.8: texts.feet };
const unitWords = (known: number) => UNITS[known] ?? texts.mm4(mm(known, 6));

/** How large a drawing is and in which unit, or the question what its unit is. *said*: a person has said the unit. */
function SizeAndUnit({
  drawing,
  box,
  unit,
  said,
  name,
  onUnit,
}: {
  drawing: Drawing;
  box: Region;
  unit: number | null;
  said: boolean;
  name: string;
  onUnit: (mm: number) => void;
}) {
  const { facts } = drawing;
  return (
    <>
      {unit === null && facts.kind !== "pdf" && <UnitQuestion name={name} candidates={drawing.candidates} onChoose={onUnit} />}
      {unit === null && facts.kind === "pdf" && (
        <Note tone="warning" title={texts.thisPageGivesNoScale}>
          {texts.clickTwoPointsOfA}
        </Note>
      )}
      <Fact name={texts.size}>
        {unit === null
          ? texts.units(mm(box[2] - box[0], 2), mm(box[3] - box[1], 2))
          : sizeInUnit((box[2] - box[0]) * (unit ?? 1), (box[3] - box[1]) * (unit ?? 1), 1)}
      </Fact>
      {facts.kind !== "pdf" && unit !== null && (
        <Fact name={texts.unit}>{facts.unit && !said ? texts.fromTheFile(facts.unit) : texts.setByYou(unitWords(unit))}</Fact>
      )}
    </>
  );
}

/** What a drawing is made of, to switch, and what of it is not as it was. */
function Contents({ facts, off, onSwitch }: { facts: Drawing["facts"]; off: readonly string[]; onSwitch: (layers: string[], shown: boolean) => void }) {
  return (
    <>
      <Section title={texts.layers}>
        <LayerList layers={facts.layers} off={off} styles={{}} onSwitch={onSwitch} />
      </Section>
      <Fonts facts={facts} />
      <Lost facts={facts} />
    </>
  );
}

/** Which area of a drawing is meant: all of it, its own limits, or one that is picked on it or taken from the screen. */
function useArea() {
  const [mode, setMode] = useState<PaneMode>(null);
  const [region, setRegion] = useState<Region | null>(null);
  const [what, setWhat] = useState<What>("all");
  const onScreen = useRef<Region | null>(null);
  const onLook = useCallback((shown: Region) => {
    onScreen.current = shown;
  }, []);
  const pick = () => {
    setWhat("region");
    setMode("region");
  };
  const takeScreen = () => {
    if (!onScreen.current) return;
    setRegion(onScreen.current);
    setWhat("region");
    setMode(null);
  };
  const clear = () => {
    setRegion(null);
    setWhat("all");
    setMode(null);
  };
  return { mode, setMode, region, setRegion, what, setWhat, pick, takeScreen, onLook, clear };
}

function Loaded({ job, reference: ref, drawing }: { job: Job; reference: Schemas["SourceRef"]; drawing: Drawing }) {
  const { id: source, name } = ref;
  const { facts } = drawing;
  const navigate = useNavigate();
  const put = usePutExcerpt(job.id);
  const page = usePutPage(job.id);
  const pages = usePutPages(job.id);
  const edit = useEdit(job.id);
  const [spaceName, setSpace] = useState("");
  // a drawing has at least one picture
  const space = (facts.spaces.find((s) => s.name === spaceName) ?? facts.spaces[0])!;
  const { data } = useSpacePicture(source, space.name);
  const { mode, setMode, region, setRegion, what, setWhat, pick, takeScreen, onLook, clear } = useArea();
  const [measured, setMeasured] = useState<number | null>(null);
  const [off, setOff] = useState<string[]>(() => facts.layers.filter((l) => !l.on || l.frozen || !l.printed).map((l) => l.name));
  const [turn, setTurn] = useState(0);
  const { data: points } = useDrawingPoints(source, space.name, mode !== null);
  const { sheet, aimAt } = useTargetSheet(job);
  const saved = facts.kind === "dxf" && space.name !== "";
  // a saved page is in millimetres of paper; a page of a PDF may carry its scale
  const unit = saved ? space.unit : (drawing.unit_mm ?? (space.scale ? 1 / ratio(space.scale) : null));
  const known = unit ?? 1;
  const unitName = saved ? "mm" : unit === null ? "units" : facts.unit && !ref.unit_mm ? facts.unit : known === 1 ? "mm" : "units";
  const box = space.box ?? space.declared ?? [0, 0, 1, 1];
  const mmOf = (r: Region) => r.map((v) => v * known) as Region;
  const putOn = () => {
    if (saved) return page.mutate({ source, space: space.name, off }, { onSuccess: (placed) => void navigate(`/jobs/${job.id}/sheets/${placed.sheet}`) });
    put.mutate(
      {
        source,
        sheet: sheet === "new" ? null : sheet,
        space: space.name,
        region: what === "region" && region ? mmOf(region) : null,
        declared: what === "declared",
        off,
        name: "",
      },
      { onSuccess: (placed) => void navigate(`/jobs/${job.id}/sheets/${placed.sheet}?view=${placed.view}`) },
    );
  };
  const look = (which: string) => {
    setSpace(which);
    clear();
    setTurn(turn + 1);
  };
  useCommands("source-stop", [
    { id: "put", title: saved ? texts.useAsASheet(space.label) : texts.putOnSheet, key: "P", run: putOn },
    { id: "whole", title: texts.showTheWholeDrawing, key: "F", run: () => setTurn(turn + 1) },
    { id: "region", title: texts.pickAnAreaOfThe, key: "B", run: pick },
    { id: "length", title: texts.measureAKnownLengthOn, key: "L", run: () => setMode("length") },
    { id: "leave", title: texts.cancel, key: "Escape", run: () => setMode(null) },
    ...facts.spaces.map((s) => ({ id: `space-${s.name}`, title: texts.show2(s.label), run: () => look(s.name) })),
  ]);
  const ready = unit !== null && (what !== "region" || region !== null);
  const notReady = unit === null ? texts.giveTheLengthOfThe : ready ? undefined : texts.dragARectangleOverThe;
  const main = saved ? texts.useAsASheet2 : texts.putOnSheet;
  return (
    <>
      <MainAct>
        <Button type="primary" loading={put.isPending || page.isPending} disabled={!ready} title={notReady} onClick={putOn}>
          {main}
        </Button>
      </MainAct>
      <DrawingPane
        picture={data?.picture}
        waiting={data?.work?.state === "failed" ? data.work.error : texts.drawingThePage}
        box={box}
        unit={known}
        unitName={unit === null ? "units" : "mm"}
        off={off}
        mode={mode}
        region={what === "region" ? region : what === "declared" ? ((space.declared as Region | null) ?? null) : null}
        snaps={points}
        onLook={onLook}
        turn={turn}
        onWhole={() => setTurn(turn + 1)}
        onRegion={(picked) => {
          setRegion(picked);
          setMode(null);
        }}
        onLength={(length) => {
          setMeasured(length);
          setMode(null);
        }}
      />
      <Ticket title={name} under={`Drawing, ${facts.form}`}>
        <SizeAndUnit
          drawing={drawing}
          box={box}
          unit={unit}
          said={!!ref.unit_mm}
          onUnit={(unit_mm) => edit.mutate({ kind: "set_unit", source, unit_mm })}
          name={name}
        />
        <Fact name={texts.contents}>{texts.strokesAndTexts(facts.spaces.reduce((sum, s) => sum + s.strokes, 0))}</Fact>
        {!saved && (
          <ScaleQuestion
            job={job}
            source={source}
            facts={facts}
            unit={unit}
            measured={measured}
            picking={mode === "length"}
            onPick={() => setMode("length")}
            onDone={() => setMeasured(null)}
          />
        )}
        <Revision job={job} source={ref} />
        {unit !== null && <CutAct job={job} source={source} drawing given={[]} />}
        {(facts.spaces.length > 1 || facts.kind === "pdf") && (
          <Pages
            job={job.id}
            source={source}
            facts={facts}
            at={space.name}
            onLook={look}
            busy={pages.isPending}
            onAll={() => pages.mutate({ source, off }, { onSuccess: (placed) => void navigate(`/jobs/${job.id}/sheets/${placed.sheets[0]}`) })}
          />
        )}
        <AreaToPut
          facts={facts}
          space={space}
          saved={saved}
          what={what}
          region={region}
          unit={known}
          unitName={unitName}
          sheets={job.document.sheets}
          sheet={sheet}
          onSheet={aimAt}
          onWhat={(chosen) => (chosen === "region" ? pick() : setWhat(chosen))}
          onRegion={setRegion}
          onScreen={takeScreen}
          put={{ words: main, run: putOn, busy: put.isPending, ready, why: notReady }}
        />
        <Contents
          facts={facts}
          off={off}
          onSwitch={(layers, shown) => setOff((now) => (shown ? now.filter((l) => !layers.includes(l)) : [...new Set([...now, ...layers])]))}
        />
        <Button type="link" danger className="take-out" onClick={() => edit.mutate({ kind: "remove_source", source })}>
          {texts.remove} {name} {texts.fromJob}
        </Button>
      </Ticket>
    </>
  );
}

/** A drawing on the Source stop: its picture, its pages and layers, what its unit is, and what goes on a sheet. */
export function DrawingSource({ job, reference }: { job: Job; reference: Schemas["SourceRef"] }) {
  const { data, error } = useDrawing(job, reference.id);
  if (error) return <p role="alert">{error.message}</p>;
  return data ? <Loaded job={job} reference={reference} drawing={data} /> : null;
}

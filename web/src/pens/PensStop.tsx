import { Button } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Job, Sheet } from "../api/client";
import { useWriting } from "../api/desk";
import { newId } from "../common/ids";
import { usePenFacts, useReadPens, useSheetPens, useStrokeAt, type PenSet } from "../api/pens";
import { useEdit } from "../api/queries";
import { useCommands } from "../common/commands";
import { MainAct } from "../shell/JobFrame";
import { Calibrate } from "../paper/Calibrate";
import { isEmpty, mm, paperOf, whyEmpty } from "../paper/geometry";
import { PaperSheet } from "../paper/PaperSheet";
import { StopWithSheets } from "../strip/StopWithSheets";
import { PAD, useZoom } from "../paper/useZoom";
import { ZoomHint } from "../paper/ZoomHint";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { RuleList } from "./RuleList";
import { SetActs } from "./SetActs";
import { SetChoices } from "./SetChoices";
import * as texts from "./texts";

const REACH_PIXELS = 7;

function OpenPens({ job, sheet }: { job: Job; sheet: Sheet }) {
  const navigate = useNavigate();
  const { data: facts } = usePenFacts();
  const { data: own } = useSheetPens(job, sheet.id);
  const { data: writing } = useWriting(job, sheet.id);
  const edit = useEdit(job.id);
  const read = useReadPens(job.id);
  const at = useStrokeAt(job.id, sheet.id);
  const [spot, setSpot] = useState<[number, number] | null>(null);
  const [calibrating, setCalibrating] = useState(false);
  const paper = paperOf(job, sheet);
  const { frame, zoom, ...size } = useZoom(paper, "pens-zoom", () => setCalibrating(true));
  const proof = () => void navigate(`/jobs/${job.id}/proof/${sheet.id}?make`);
  const sets = [...job.document.pens, ...(facts?.shipped ?? [])];
  // the set as the job has it now; what it draws comes a moment later
  const pens = sets.find((set) => set.id === sheet.pens) ?? own?.pens;
  const locked = !job.document.pens.some((set) => set.id === pens?.id);
  const keep = (made: PenSet) => edit.mutate({ kind: "keep_pens", pens: made });
  const drawWith = (id: string) => edit.mutate({ kind: "change_sheet", sheet: sheet.id, fields: { pens: id } });
  const everywhere = () => {
    const others = job.document.sheets.filter((s) => s.pens !== sheet.pens);
    if (others.length) edit.mutate({ kind: "together", edits: others.map((s) => ({ kind: "change_sheet", sheet: s.id, fields: { pens: sheet.pens } })) });
  };
  const adopt = (made: PenSet) => edit.mutate({ kind: "keep_pens", pens: made }, { onSuccess: () => drawWith(made.id) });
  const duplicate = () => {
    if (!pens) return;
    const names = new Set(sets.map((set) => set.name));
    let name = `${pens.name}, copy`;
    for (let n = 2; names.has(name); n += 1) name = texts.copy(pens.name, n);
    adopt({ ...pens, id: newId(), name });
  };
  const pick = (point: [number, number]) => {
    setSpot(point);
    at.mutate({ x: point[0], y: point[1], reach: REACH_PIXELS / zoom });
  };
  const stroke = spot && !at.isPending ? (at.data ?? null) : null;
  useCommands("pens", [
    { id: "proof-sheet", title: texts.proof(sheet.name), key: "P", run: proof },
    { id: "copy-pens", title: texts.copyAndEditThesePens, run: duplicate },
    ...sets
      .filter((set) => set.id !== sheet.pens)
      .map((set) => ({ id: `pens-${set.id}`, title: texts.drawWith(sheet.name, set.name), run: () => drawWith(set.id) })),
  ]);
  return (
    <>
      <MainAct>
        <Button type="primary" onClick={proof} disabled={isEmpty(sheet)} title={whyEmpty(sheet)}>
          {texts.proofThisSheet}
        </Button>
      </MainAct>
      <div className="desk" ref={frame}>
        <div className="surface" style={{ width: paper.width * zoom + PAD.left + PAD.right, height: paper.height * zoom + PAD.top + PAD.bottom }}>
          <PaperSheet job={job} sheet={sheet} writing={writing} zoom={zoom} onPick={pick}>
            {spot && <circle className="spot" cx={spot[0] * zoom} cy={(paper.height - spot[1]) * zoom} r={REACH_PIXELS} />}
          </PaperSheet>
          <p className="hint soft" style={{ paddingLeft: PAD.left }}>
            <ZoomHint what={texts.pointAtAStrokeTo} {...size} />
          </p>
        </div>
      </div>
      <Ticket title={pens?.name ?? texts.pens} under={locked ? texts.shipsWithSkaltoAndStays : texts.aSetOfThisJob}>
        <Fact name={texts.pens}>
          <select aria-label={texts.penSet} value={pens?.id} onChange={(event) => drawWith(event.target.value)}>
            {sets.map((set) => (
              <option key={set.id} value={set.id}>
                {set.name}
              </option>
            ))}
          </select>
        </Fact>
        {!locked && pens && (
          <Fact name={texts.name}>
            <TypedField
              label={texts.nameOfThePens}
              value={pens.name}
              read={async (text) => text.trim() || pens.name}
              onChange={(name) => keep({ ...pens, name })}
            />
          </Fact>
        )}
        <SetActs
          job={job.id}
          pens={pens}
          locked={locked}
          onCopy={duplicate}
          onRemove={(id) => edit.mutate({ kind: "remove_pens", pens: id })}
          onFile={(file) => read.mutate(file, { onSuccess: adopt })}
        />
        {job.document.sheets.some((s) => s.pens !== sheet.pens) && (
          <p className="layer-acts">
            <button type="button" onClick={everywhere}>
              {texts.useForAll} {job.document.sheets.length} {texts.sheets}
            </button>
          </p>
        )}
        {own?.light.map((light) => (
          <Note key={light.colour} tone="warning" title={texts.strokesAreDrawnInToo(light.strokes, light.colour)}>
            {pens && (
              <Button
                type="link"
                size="small"
                onClick={() => (locked ? adopt({ ...pens, id: newId(), name: `${pens.name}, dark`, darken: true }) : keep({ ...pens, darken: true }))}
              >
                {texts.drawLightColoursInBlack}
              </Button>
            )}
          </Note>
        ))}
        {spot && (
          <Note
            tone="info"
            title={
              stroke
                ? stroke.rule == null
                  ? texts.noRuleDrawsThisIt
                  : texts.ruleDrawsThis(stroke.rule + 1)
                : at.isPending
                  ? texts.looking
                  : texts.noStrokeIsThere
            }
          >
            {stroke && (
              <>
                {[stroke.edge_class, stroke.layer && texts.layer2(stroke.layer), stroke.source_colour, stroke.component.split("/").pop()]
                  .filter(Boolean)
                  .join(", ")}
                : {mm(stroke.width, 4)} {texts.mmIn} {stroke.colour}
              </>
            )}
          </Note>
        )}
        {pens && facts && (
          <>
            <Section title={texts.rulesTheFirstThatFits}>
              <RuleList
                key={pens.id}
                pens={pens}
                counts={own?.pens.id === pens.id ? own.rules : undefined}
                rest={own?.rest}
                facts={facts}
                layers={own?.layers ?? []}
                colours={own?.colours ?? []}
                stroke={stroke}
                locked={locked}
                change={keep}
              />
            </Section>
            <SetChoices pens={pens} locked={locked} change={keep} />
          </>
        )}
      </Ticket>
      <Calibrate open={calibrating} close={() => setCalibrating(false)} />
    </>
  );
}

/** The Pens stop: which pen draws what. */
export function PensStop() {
  return (
    <StopWithSheets stop="pens" todo="to draw">
      {(job, sheet) => <OpenPens key={sheet.id} job={job} sheet={sheet} />}
    </StopWithSheets>
  );
}

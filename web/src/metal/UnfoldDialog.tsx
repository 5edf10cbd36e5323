import { Button, Modal, Slider, Spin } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Job } from "../api/client";
import { PLAIN, usePattern, usePutFlat, type Choices, type SheetPart } from "../api/metal";
import { useTargetSheet } from "../intake/target";
import { Fact, Note } from "../ticket/Ticket";
import { BendRows } from "./BendRows";
import { DxfAct } from "./DxfAct";
import { FlatPicture } from "./FlatPicture";
import { FoldedPicture } from "./FoldedPicture";
import { LimitFields } from "./LimitFields";
import { PartPicture } from "./PartPicture";
import { PatternNotes, PatternNumbers } from "./PatternNumbers";
import { RuleFields } from "./RuleFields";
import "./metal.css";
import * as texts from "./texts";

/** A part folded and flat side by side: by which rule it is unfolded, what comes of it, and where it goes. */
export function UnfoldDialog({ job, source, part, close }: { job: Job; source: string; part: SheetPart; close: () => void }) {
  const [choices, change] = useState<Choices>(PLAIN);
  const [share, setShare] = useState(100);
  const [lit, setLit] = useState<number | null>(null);
  const { data, error } = usePattern(source, part.component, choices);
  const { sheet, aimAt } = useTargetSheet(job);
  const put = usePutFlat(job.id);
  const navigate = useNavigate();
  const pattern = data?.pattern;
  const failed = data?.work?.state === "failed" ? data.work.error : error?.message;
  const putOn = () =>
    put.mutate(
      { source, component: part.component, sheet: sheet === "new" ? null : sheet, choices },
      { onSuccess: (placed) => void navigate(`/jobs/${job.id}/sheets/${placed.sheet}?view=${placed.view}`) },
    );
  return (
    <Modal open onCancel={close} footer={null} width={1080} style={{ top: 16 }} title={texts.unfoldOf(part.name)} destroyOnHidden>
      <div className="unfold">
        <div>
          {!pattern && !failed && <Spin description={texts.unfolding} />}
          {failed && (
            <>
              <Note tone="error" title={failed} />
              <PartPicture
                source={source}
                component={part.component}
                place={choices.slit ? null : (part.place ?? null)}
                onSlit={(slit) => change({ ...choices, slit })}
              />
            </>
          )}
          {pattern && !failed && (
            <>
              <div className="unfold-pictures">
                <figure className="folded">
                  <FoldedPicture pattern={pattern} share={share / 100} lit={lit} />
                  <figcaption>
                    {texts.folded} <span>{texts.dragToTurn}</span>
                  </figcaption>
                </figure>
                <figure>
                  <FlatPicture pattern={pattern} lit={lit} onLit={setLit} />
                  <figcaption>{texts.flat}</figcaption>
                </figure>
              </div>
              {pattern.bends.length > 0 && (
                <Fact name={texts.fold}>
                  <Slider ariaLabelForHandle={texts.fold} min={0} max={100} value={share} onChange={setShare} style={{ width: 280 }} />
                </Fact>
              )}
              <BendRows wide pattern={pattern} choices={choices} change={change} lit={lit} onLit={setLit} />
              <PatternNotes pattern={pattern} />
            </>
          )}
        </div>
        <div>
          <RuleFields choices={choices} change={change} bases={pattern?.facts.bases ?? []} />
          <LimitFields choices={choices} change={change} />
          {pattern && !failed && (
            <>
              <PatternNumbers pattern={pattern} />
              <Fact name={texts.onWhichSheet}>
                <select aria-label={texts.onWhichSheet} value={sheet} onChange={(event) => aimAt(event.target.value)}>
                  {job.document.sheets
                    .filter((own) => !own.cutting)
                    .map((own) => (
                      <option key={own.id} value={own.id}>
                        {own.name}
                      </option>
                    ))}
                  <option value="new">{texts.aNewSheet}</option>
                </select>
              </Fact>
              <Button type="primary" loading={put.isPending} onClick={putOn}>
                {texts.putOnSheet}
              </Button>
              <DxfAct source={source} component={part.component} choices={choices} sideB={pattern.features.some((own) => own.side === "b")} />
            </>
          )}
        </div>
      </div>
    </Modal>
  );
}

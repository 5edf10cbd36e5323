import { Button, Select } from "antd";
import type { Drawing, Region, Sheet } from "../api/client";
import { sizeInUnit } from "../common/unit";
import { Section } from "../ticket/Ticket";
import { Corners } from "./Corners";
import * as texts from "./texts";

export type What = "all" | "declared" | "region";

interface Props {
  facts: Drawing["facts"];
  space: Drawing["facts"]["spaces"][number];
  /** Whether it is a page that the file has saved. */
  saved: boolean;
  what: What;
  region: Region | null;
  /** Millimetres of a unit. */
  unit: number;
  unitName: string;
  sheets: readonly Sheet[];
  /** The sheet that it goes on, or "new". */
  sheet: string;
  onSheet: (sheet: string) => void;
  onWhat: (what: What) => void;
  onRegion: (region: Region) => void;
  onScreen: () => void;
  put: { words: string; run: () => void; busy: boolean; ready: boolean; why: string | undefined };
}

/** Which part of a drawing goes on which sheet. */
export function AreaToPut({ facts, space, saved, what, region, unit, unitName, sheets, sheet, onSheet, onWhat, onRegion, onScreen, put }: Props) {
  const choices: [What, string, boolean][] = [
    ["all", texts.everythingDrawn, true],
    ["declared", facts.kind === "pdf" ? texts.whatIsToScale : texts.theFileSOwnLimits, !!space.declared],
    ["region", region ? texts.pickedArea : texts.pickArea, true],
  ];
  return (
    <Section title={saved ? texts.aPageOfTheFile : texts.area}>
      {saved ? (
        <p className="soft">
          {space.paper ? sizeInUnit(space.paper[0], space.paper[1], 3) : texts.noPaperSize},{" "}
          {space.excerpts.length === 1 ? texts.n1DrawingView : texts.drawingViews2(space.excerpts.length)} {texts.ofTheDrawing}
        </p>
      ) : (
        <div className="chips">
          {choices.map(([id, words, there]) => (
            <button
              key={id}
              type="button"
              aria-pressed={what === id}
              disabled={!there}
              title={there ? undefined : facts.kind === "pdf" ? texts.thePageGivesNoScale : texts.theFileGivesNoLimits}
              onClick={() => onWhat(id)}
            >
              {words}
            </button>
          ))}
          <button type="button" onClick={onScreen}>
            {texts.whatIsOnTheScreen}
          </button>
        </div>
      )}
      {!saved && what === "region" && region && (
        <Corners region={region} origin={space.name ? [0, 0] : facts.origin} unit={unit} unitName={unitName} onChange={onRegion} />
      )}
      <div className="put-on">
        {!saved && (
          <Select
            aria-label={texts.whichSheet}
            value={sheet}
            onChange={onSheet}
            options={[{ value: "new", label: texts.aNewSheet }, ...sheets.map((s) => ({ value: s.id, label: s.name }))]}
          />
        )}
        <Button onClick={put.run} loading={put.busy} disabled={!put.ready} title={put.why}>
          {put.words} <kbd>P</kbd>
        </Button>
      </div>
    </Section>
  );
}

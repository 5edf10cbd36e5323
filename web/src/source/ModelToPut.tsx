import { Button, Select } from "antd";
import type { Sheet, Vector } from "../api/client";
import { BoxChooser } from "../components/BoxChooser";
import * as componentsTexts from "../components/texts";
import { Fact, Section } from "../ticket/Ticket";
import { DirectionField } from "../views/DirectionField";
import * as texts from "./texts";

export interface Direction {
  name: string;
  look: Vector;
  up: Vector;
}

export const chosenWords = (paths: readonly string[]) => (paths.length === 1 ? (paths[0]!.split("/").at(-1) ?? "") : texts.components2(paths.length));

interface Props {
  direction: Direction;
  onLook: (direction: Direction) => void;
  /** Paths of the components that go on the sheet alone; none for all. */
  chosen: readonly string[];
  sheets: readonly Sheet[];
  /** The sheet that it goes on, or "new". */
  sheet: string;
  onSheet: (sheet: string) => void;
  busy: boolean;
  /** *each*: a view for each component. */
  onPut: (each?: boolean) => void;
  /** As 3D, beside what is on the sheet, or as a whole page. */
  onPutSolid: (whole: boolean) => void;
}

/** From where a model is looked at, and what of it goes on which sheet. */
export function ModelToPut({ direction, onLook, chosen, sheets, sheet, onSheet, busy, onPut, onPutSolid }: Props) {
  return (
    <Section title={componentsTexts.viewDirection}>
      <Fact name={componentsTexts.direction}>
        <DirectionField name={direction.name} onChoose={onLook} />
      </Fact>
      <BoxChooser look={direction.look} up={direction.up} onChoose={onLook} />
      <div className="put-on">
        <Select
          aria-label={texts.whichSheet}
          value={sheet}
          onChange={onSheet}
          options={[{ value: "new", label: texts.aNewSheet }, ...sheets.map((s) => ({ value: s.id, label: s.name }))]}
        />
        <Button onClick={() => onPut()} loading={busy}>
          {texts.putOnSheet} <kbd>P</kbd>
        </Button>
      </div>
      <p className="soft small">
        {chosen.length ? texts.onlyInThisDirection(chosenWords(chosen)) : texts.theWholeModelInThis}
        {chosen.length > 1 && (
          <Button type="link" size="small" onClick={() => onPut(true)}>
            {texts.oneViewEach}
          </Button>
        )}
      </p>
      <span className="layer-acts">
        <button type="button" onClick={() => onPutSolid(false)}>
          {texts.addAs3d} <kbd>T</kbd>
        </button>
        <button type="button" onClick={() => onPutSolid(true)}>
          {texts.n3dPage}
        </button>
      </span>
    </Section>
  );
}

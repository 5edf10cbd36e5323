import { readInUnit } from "../api/queries";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { mm, type Box } from "../paper/geometry";
import { MoveBy } from "./MoveBy";
import * as texts from "./texts";

/** Where a view lies on its sheet, typed or moved by an exact distance. */
export function PlaceFacts({ box, move }: { box: Box | null; move: (by: [number, number]) => void }) {
  const read = async (text: string) => mm((await readInUnit(text)).mm);
  const moveTo = (axis: 0 | 1, text: string) => box && move(axis === 0 ? [Number(text) - box[0], 0] : [0, Number(text) - box[1]]);
  return (
    <>
      <Fact name={texts.position}>
        {box && (
          <span className="pair">
            <span className="axis">
              {texts.x} <TypedField length label={texts.positionX} value={mm(box[0])} read={read} onChange={(text) => moveTo(0, text)} />
            </span>
            <span className="axis">
              {texts.y} <TypedField length label={texts.positionY} value={mm(box[1])} read={read} onChange={(text) => moveTo(1, text)} />
            </span>
          </span>
        )}
      </Fact>
      <Fact name={texts.moveBy}>
        <MoveBy move={move} />
      </Fact>
    </>
  );
}

import type { Choices, Pattern } from "../api/metal";
import { inUnit } from "../common/unit";
import { length } from "../views/typing";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

const short = (value: number, digits = 2) => String(Number(value.toFixed(digits)));

interface Props {
  pattern: Pattern;
  choices: Choices;
  change: (choices: Choices) => void;
  lit: number | null;
  onLit: (bend: number | null) => void;
  /** With lengths, and distances from the pattern's edge. */
  wide?: boolean;
}

/** The bends of a pattern; the allowance of each can be typed. */
export function BendRows({ pattern, choices, change, lit, onLit, wide }: Props) {
  const { bends } = pattern.facts;
  if (!bends.length) return <p className="soft">{texts.noBends}</p>;
  const type = (bend: number, text: string) => {
    const others = Object.fromEntries(Object.entries(choices.typed).filter(([number]) => Number(number) !== bend));
    const own = text.trim() ? { [bend]: { way: "allowance" as const, value: Number(text), rows: [], name: "" } } : {};
    change({ ...choices, typed: { ...others, ...own } });
  };
  return (
    <table className="bend-rows">
      <thead>
        <tr>
          {[texts.bend, texts.way, texts.angle, texts.radius, ...(wide ? [texts.length, texts.distance] : []), texts.allowance, texts.deduction].map((head) => (
            <th key={head}>{head}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {bends.map((bend) => (
          <tr key={bend.number} className={lit === bend.number ? "lit" : undefined} onClick={() => onLit(bend.number)}>
            <td>{bend.number}</td>
            <td>{bend.direction}</td>
            <td>{`${short(bend.angle)}${texts.degrees}`}</td>
            <td>{inUnit(bend.radius, 2)}</td>
            {wide && (
              <>
                <td>{inUnit(bend.length, 2)}</td>
                <td>{`${inUnit(bend.distance, 2)} ${bend.datum}`}</td>
              </>
            )}
            <td onClick={(event) => event.stopPropagation()}>
              <TypedField
                label={texts.typedFor(bend.number)}
                value={short(bend.allowance, 4)}
                length
                read={async (text) => (text.trim() ? length(text) : "")}
                onChange={(text) => type(bend.number, text)}
              />
            </td>
            <td>{bend.deduction === null || bend.deduction === undefined ? "–" : inUnit(bend.deduction)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

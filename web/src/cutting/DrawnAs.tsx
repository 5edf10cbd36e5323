import { Checkbox } from "antd";
import { useMemo } from "react";
import type { Schemas } from "../api/client";
import { useSpacePicture } from "../api/drawings";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { length } from "../views/typing";
import * as texts from "./texts";

export type Said = Schemas["DrawnAs"];
type Way = "cut" | "score" | "engrave" | "out";

const WAYS: Record<Way, string> = { cut: texts.cutWay, score: texts.scoreWay, engrave: texts.engraveWay, out: texts.outWay };
export const ALL_CUT: Required<Said> = { close: 0, score: [], engrave: [], out: [], plate: false };

/** A name as a pattern that fits nothing else. */
const exactly = (name: string) => name.replace(/[[*?]/g, (mark) => `[${mark}]`);

const wayOf = (said: Required<Said>, key: string): Way => (["out", "engrave", "score"] as const).find((way) => said[way].includes(key)) ?? "cut";

const withWay = (said: Required<Said>, key: string, way: Way): Required<Said> => {
  const rest = (own: readonly string[]) => own.filter((other) => other !== key);
  const made = { ...said, score: rest(said.score), engrave: rest(said.engrave), out: rest(said.out) };
  return way === "cut" ? made : { ...made, [way]: [...made[way], key] };
};

/** What a drawing's layers and colours stand for, and whether its outermost contour is the plate. */
export function DrawnAs({ source, said, onSaid }: { source: string; said: Required<Said>; onSaid: (said: Required<Said>) => void }) {
  const { data } = useSpacePicture(source, "");
  const [layers, colours] = useMemo(() => {
    const paths = data?.picture?.paths ?? [];
    const named = new Map(paths.filter((path) => path.layer).map((path) => [path.layer, path.colour ?? path.pen.colour] as const));
    return [[...named], [...new Set(paths.map((path) => (path.colour ?? path.pen.colour).toLowerCase()))]] as const;
  }, [data]);
  const row = (key: string, name: string, colour: string | null) => (
    <li key={key}>
      <span>
        {colour && <i className="swatch" style={{ background: colour }} />} {name}
      </span>
      <select aria-label={texts.whatIsDoneOn(name)} value={wayOf(said, key)} onChange={({ target }) => onSaid(withWay(said, key, target.value as Way))}>
        {Object.entries(WAYS).map(([way, words]) => (
          <option key={way} value={way}>
            {words}
          </option>
        ))}
      </select>
    </li>
  );
  return (
    <>
      <Checkbox checked={said.plate} onChange={({ target }) => onSaid({ ...said, plate: target.checked })}>
        {texts.outermostIsMyPlate}
      </Checkbox>
      {(layers.length > 1 || colours.length > 1) && (
        <>
          <h3>{texts.whatItsLinesStandFor}</h3>
          <ul className="drawn-as" aria-label={texts.whatItsLinesStandFor}>
            {layers.length > 1 && layers.map(([name, colour]) => row(exactly(name), name, colour))}
            {colours.length > 1 && colours.map((colour) => row(colour, texts.allOfColour(colour), colour))}
          </ul>
        </>
      )}
      <p className="soft small">{texts.letteringIsEngraved}</p>
      <Fact name={texts.closeGapsUpTo}>
        <TypedField
          label={texts.closeGapsUpTo}
          value={String(said.close)}
          length
          read={length}
          suffix={texts.mm}
          onChange={(text) => onSaid({ ...said, close: Number(text) })}
        />
      </Fact>
    </>
  );
}

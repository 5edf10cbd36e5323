import { Checkbox } from "antd";
import type { Choices } from "../api/metal";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { number } from "../views/typing";
import * as texts from "./texts";

const LIMITS = [
  ["opening", texts.openingNearer],
  ["flange", texts.flangeShorter],
  ["radius", texts.radiusUnder],
  ["hole", texts.holeUnder],
] as const;

const notBelow = async (text: string) => String(Math.max(0, Number(await number(text))));

/** What of common practice is warned of, in times the thickness. */
export function LimitFields({ choices, change }: { choices: Choices; change: (choices: Choices) => void }) {
  const { limits } = choices;
  const set = (fields: Partial<Choices["limits"]>) => change({ ...choices, limits: { ...limits, ...fields } });
  return (
    <details>
      <summary className="soft">{texts.warnedOf}</summary>
      {LIMITS.map(([key, name]) => (
        <Fact key={key} name={name}>
          <TypedField label={name} value={String(limits[key])} read={notBelow} onChange={(text) => set({ [key]: Number(text) })} suffix={texts.timesT} />
        </Fact>
      ))}
      <Checkbox checked={limits.relief} onChange={(event) => set({ relief: event.target.checked })}>
        {texts.missingRelief}
      </Checkbox>
    </details>
  );
}

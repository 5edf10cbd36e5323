import { Checkbox, Segmented } from "antd";
import { useCutter, type CutList } from "../api/cutting";
import type { Edit, Schemas } from "../api/client";
import { Fact, Note, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { length, numberOrNone, whole } from "../views/typing";
import * as texts from "./texts";

type Choices = Schemas["CutChoices"];

interface ChoiceProps {
  choices: Choices;
  change: (fields: Partial<Choices>) => void;
}

/** How wide the beam is, and what is done about it. */
function Kerf({ choices, change, figures }: ChoiceProps & { figures: Schemas["PlateFigures"] | undefined }) {
  const chart = figures?.chart;
  return (
    <>
      <Fact name={texts.kerf}>
        <TypedField label={texts.kerf} value={String(choices.kerf)} length read={length} suffix={texts.mm} onChange={(v) => change({ kerf: Number(v) })} />
      </Fact>
      {chart && chart.kerf !== choices.kerf && (
        <p className="soft small layer-acts">
          {texts.chartsKerf(chart.material, chart.thickness, chart.kerf)}
          <button type="button" onClick={() => change({ kerf: chart.kerf })}>
            {texts.takeIt}
          </button>
        </p>
      )}
      {choices.kerf > 0 && (
        <Checkbox checked={choices.compensated} onChange={(event) => change({ compensated: event.target.checked })}>
          {texts.offsetByTheKerf}
        </Checkbox>
      )}
      {choices.kerf > 0 && choices.compensated && (
        <Fact name={texts.corners}>
          <Segmented<"round" | "sharp">
            size="small"
            aria-label={texts.corners}
            value={choices.corners}
            onChange={(corners) => change({ corners })}
            options={[
              { value: "sharp", label: texts.sharp },
              { value: "round", label: texts.round },
            ]}
          />
        </Fact>
      )}
    </>
  );
}

/** Tabs, ways in, cuts for two. */
function Extras({ choices, change }: ChoiceProps) {
  return (
    <>
      <Fact name={texts.tabs}>
        <TypedField
          label={texts.tabs}
          value={String(choices.tabs.count)}
          read={whole}
          onChange={(v) => change({ tabs: { ...choices.tabs, count: Number(v) } })}
        />
      </Fact>
      {choices.tabs.count > 0 && (
        <>
          <Fact name={texts.tabWidth}>
            <TypedField
              label={texts.tabWidth}
              value={String(choices.tabs.width)}
              length
              read={length}
              suffix={texts.mm}
              onChange={(v) => change({ tabs: { ...choices.tabs, width: Number(v) } })}
            />
          </Fact>
          <Fact name={texts.tabsBelow}>
            <TypedField
              label={texts.tabsBelow}
              value={choices.tabs.below ? String(choices.tabs.below) : ""}
              read={numberOrNone}
              suffix={texts.squareMm}
              onChange={(v) => change({ tabs: { ...choices.tabs, below: Number(v) } })}
            />
          </Fact>
        </>
      )}
      <Fact name={texts.leadIn}>
        <TypedField
          label={texts.leadIn}
          value={String(choices.lead_in)}
          length
          read={length}
          suffix={texts.mm}
          onChange={(v) => change({ lead_in: Number(v) })}
        />
      </Fact>
      <Fact name={texts.startCorner}>
        <select aria-label={texts.startCorner} value={choices.start} onChange={(event) => change({ start: event.target.value as Choices["start"] })}>
          {(["top-left", "top-right", "bottom-left", "bottom-right"] as const).map((corner) => (
            <option key={corner}>{corner}</option>
          ))}
        </select>
      </Fact>
      <Checkbox checked={choices.common_cut} onChange={(event) => change({ common_cut: event.target.checked })}>
        {texts.oneCutForTwo}
      </Checkbox>
    </>
  );
}

/** How the parts of a list are laid and cut. */
export function CutFacts({
  list,
  figures,
  edit,
  onCutter,
}: {
  list: CutList;
  figures: Schemas["PlateFigures"] | undefined;
  edit: (edit: Edit) => void;
  onCutter: () => void;
}) {
  const { choices } = list;
  const { data: cutter } = useCutter();
  const change = (fields: Partial<Choices>) => edit({ kind: "change_cut_list", cut_list: list.id, fields: { choices: { ...choices, ...fields } } });
  return (
    <Section title={texts.cutting}>
      <Fact name={texts.gap}>
        <TypedField label={texts.gap} value={String(choices.gap)} length read={length} suffix={texts.mm} onChange={(v) => change({ gap: Number(v) })} />
      </Fact>
      <Kerf choices={choices} change={change} figures={figures} />
      <Fact name={texts.turning}>
        <select aria-label={texts.turning} value={choices.turning} onChange={(event) => change({ turning: event.target.value as typeof choices.turning })}>
          {(["any", "quarter", "half", "none"] as const).map((way) => (
            <option key={way} value={way}>
              {texts[way]}
            </option>
          ))}
        </select>
      </Fact>
      <Checkbox checked={choices.flips} onChange={(event) => change({ flips: event.target.checked })}>
        {texts.turnPartsOver}
      </Checkbox>
      <Extras choices={choices} change={change} />
      {figures?.other_codes && cutter && (
        <Note tone="warning" title={texts.otherCodes}>
          <button type="button" className="as-file" onClick={() => change({ codes: cutter.codes })}>
            {texts.takeTheCutters}
          </button>
        </Note>
      )}
      <p className="layer-acts">
        <button type="button" onClick={onCutter}>
          {texts.settingsOfTheCutter}
        </button>
      </p>
    </Section>
  );
}

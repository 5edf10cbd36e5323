import { Checkbox, Segmented } from "antd";
import type { CutList } from "../api/cutting";
import type { Edit, Schemas } from "../api/client";
import { Fact, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { length, number, size, sizeOf, whole, wholeOrNone } from "./typing";
import * as texts from "./texts";

interface Props {
  list: CutList;
  plate: number;
  edit: (edit: Edit) => void;
}

/** The stock that a plate is of. */
export function StockFacts({ list, plate, edit }: Props) {
  const own = list.plates[plate];
  if (!own) return null;
  const change = (fields: Partial<typeof own>) =>
    edit({ kind: "change_cut_list", cut_list: list.id, fields: { plates: list.plates.map((other, n) => (n === plate ? { ...other, ...fields } : other)) } });
  return (
    <Section title={texts.plate}>
      <Fact name={texts.plateSize}>
        <TypedField
          label={texts.plateSize}
          value={`${own.width} × ${own.height}`}
          read={size}
          suffix={texts.mm}
          onChange={(text) => {
            const [width, height] = sizeOf(text) ?? [own.width, own.height];
            change({ width, height });
          }}
        />
      </Fact>
      <Fact name={texts.thickness}>
        <TypedField label={texts.thickness} value={String(own.thickness)} read={length} suffix={texts.mm} onChange={(v) => change({ thickness: Number(v) })} />
      </Fact>
      <Fact name={texts.material}>
        <TypedField label={texts.material} value={own.material} read={async (text) => text.trim()} onChange={(material) => change({ material })} />
      </Fact>
      <Fact name={texts.density}>
        <TypedField
          label={texts.density}
          value={own.density ? String(own.density) : ""}
          read={async (text) => (text.trim() ? number(text) : "")}
          suffix={texts.gramsPerCm}
          onChange={(v) => change({ density: Number(v) })}
        />
      </Fact>
      <Fact name={texts.edgeMargin}>
        <TypedField label={texts.edgeMargin} value={String(own.edge)} read={length} suffix={texts.mm} onChange={(v) => change({ edge: Number(v) })} />
      </Fact>
      <Fact name={texts.platesThereAre}>
        <TypedField
          label={texts.platesThereAre}
          value={own.count === null ? "" : String(own.count)}
          read={wholeOrNone}
          suffix={own.count === null ? texts.asManyAsItTakes : ""}
          onChange={(v) => change({ count: v ? Number(v) : null })}
        />
      </Fact>
      <Fact name={texts.price}>
        <TypedField
          label={texts.price}
          value={own.price === null ? "" : String(own.price)}
          read={async (text) => (text.trim() ? number(text) : "")}
          onChange={(v) => change({ price: v ? Number(v) : null })}
        />
      </Fact>
    </Section>
  );
}

/** How the parts of a list are laid and cut. */
export function CutFacts({ list, edit }: { list: CutList; edit: (edit: Edit) => void }) {
  const { choices } = list;
  const change = (fields: Partial<Schemas["CutChoices"]>) =>
    edit({ kind: "change_cut_list", cut_list: list.id, fields: { choices: { ...choices, ...fields } } });
  return (
    <Section title={texts.cutting}>
      <Fact name={texts.gap}>
        <TypedField label={texts.gap} value={String(choices.gap)} read={length} suffix={texts.mm} onChange={(v) => change({ gap: Number(v) })} />
      </Fact>
      <Fact name={texts.kerf}>
        <TypedField label={texts.kerf} value={String(choices.kerf)} read={length} suffix={texts.mm} onChange={(v) => change({ kerf: Number(v) })} />
      </Fact>
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
      <Fact name={texts.tabs}>
        <TypedField
          label={texts.tabs}
          value={String(choices.tabs.count)}
          read={whole}
          onChange={(v) => change({ tabs: { ...choices.tabs, count: Number(v) } })}
        />
      </Fact>
      {choices.tabs.count > 0 && (
        <Fact name={texts.tabWidth}>
          <TypedField
            label={texts.tabWidth}
            value={String(choices.tabs.width)}
            read={length}
            suffix={texts.mm}
            onChange={(v) => change({ tabs: { ...choices.tabs, width: Number(v) } })}
          />
        </Fact>
      )}
      <Fact name={texts.leadIn}>
        <TypedField label={texts.leadIn} value={String(choices.lead_in)} read={length} suffix={texts.mm} onChange={(v) => change({ lead_in: Number(v) })} />
      </Fact>
      <Checkbox checked={choices.common_cut} onChange={(event) => change({ common_cut: event.target.checked })}>
        {texts.oneCutForTwo}
      </Checkbox>
    </Section>
  );
}

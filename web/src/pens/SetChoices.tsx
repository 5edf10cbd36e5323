import { Segmented } from "antd";
import type { PenSet } from "../api/pens";
import { readLength } from "../api/queries";
import { mm } from "../paper/geometry";
import { Fact, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

/** What holds for all rules of a set: widths, crossings, order, light colours. */
export function SetChoices({ pens, locked, change }: { pens: PenSet; locked: boolean; change: (pens: PenSet) => void }) {
  const readWidth = async (text: string) => {
    if (!text.trim() || text.trim() === "by rule") return "by rule";
    if (/^hairline$/i.test(text.trim())) return "0.0254";
    const width = (await readLength(text)).mm;
    if (width <= 0 || width > 20) throw new Error(texts.isNotALineWidth2(text));
    return mm(width, 4);
  };
  const choice = <T extends string>(name: string, value: T, options: { value: T; label: string }[], set: (value: T) => void) => (
    <Fact name={name}>
      <Segmented size="small" disabled={locked} value={value} options={options} onChange={set} aria-label={name} />
    </Fact>
  );
  return (
    <Section title={texts.forAllRules}>
      <Fact name={texts.widths}>
        {locked ? (
          pens.all_widths ? (
            mm(pens.all_widths, 4)
          ) : (
            "by rule"
          )
        ) : (
          <TypedField
            label={texts.oneWidthForAll}
            value={pens.all_widths ? mm(pens.all_widths, 4) : "by rule"}
            read={readWidth}
            onChange={(text) => change({ ...pens, all_widths: text === "by rule" ? null : Number(text) })}
          />
        )}
      </Fact>
      {choice(
        texts.withScale,
        pens.scaled ? "scaled" : "fixed",
        [
          { value: "fixed", label: texts.asOnPaper },
          { value: "scaled", label: texts.withTheView },
        ],
        (value) => change({ ...pens, scaled: value === "scaled" }),
      )}
      {choice(
        texts.crossing,
        pens.crossing,
        [
          { value: "cover", label: texts.cover },
          { value: "blend", label: texts.blend },
        ],
        (crossing) => change({ ...pens, crossing }),
      )}
      {choice(
        texts.order,
        pens.order,
        [
          { value: "as drawn", label: "as drawn" },
          { value: "by rule", label: texts.topRuleOnTop },
        ],
        (order) => change({ ...pens, order }),
      )}
      {choice(
        texts.lightColours,
        pens.darken ? "black" : "kept",
        [
          { value: "kept", label: texts.asTheyAre },
          { value: "black", label: texts.black },
        ],
        (value) => change({ ...pens, darken: value === "black" }),
      )}
    </Section>
  );
}

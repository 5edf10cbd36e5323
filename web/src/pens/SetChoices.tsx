import { Segmented } from "antd";
import type { PenSet } from "../api/pens";
import { readLength } from "../api/queries";
import { mm } from "../sheets/geometry";
import { Fact, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";

/** What holds for all rules of a set: widths, crossings, order, light colours. */
export function SetChoices({ pens, locked, change }: { pens: PenSet; locked: boolean; change: (pens: PenSet) => void }) {
  const readWidth = async (text: string) => {
    if (!text.trim() || text.trim() === "by rule") return "by rule";
    if (/^hairline$/i.test(text.trim())) return "0.0254";
    const width = (await readLength(text)).mm;
    if (width <= 0 || width > 20) throw new Error(`“${text}” is not a line width: write up to 20 mm, hairline, or by rule.`);
    return mm(width, 4);
  };
  const choice = <T extends string>(name: string, value: T, options: { value: T; label: string }[], set: (value: T) => void) => (
    <Fact name={name}>
      <Segmented size="small" disabled={locked} value={value} options={options} onChange={set} aria-label={name} />
    </Fact>
  );
  return (
    <Section title="For all rules">
      <Fact name="Widths">
        {locked ? (pens.all_widths ? mm(pens.all_widths, 4) : "by rule") : <TypedField label="One width for all" value={pens.all_widths ? mm(pens.all_widths, 4) : "by rule"} read={readWidth} onChange={(text) => change({ ...pens, all_widths: text === "by rule" ? null : Number(text) })} />}
      </Fact>
      {choice("With scale", pens.scaled ? "scaled" : "fixed", [{ value: "fixed", label: "as on paper" }, { value: "scaled", label: "with the view" }], (value) => change({ ...pens, scaled: value === "scaled" }))}
      {choice("Crossing", pens.crossing, [{ value: "cover", label: "cover" }, { value: "blend", label: "blend" }], (crossing) => change({ ...pens, crossing }))}
      {choice("Order", pens.order, [{ value: "as drawn", label: "as drawn" }, { value: "by rule", label: "top rule on top" }], (order) => change({ ...pens, order }))}
      {choice("Light colours", pens.darken ? "black" : "kept", [{ value: "kept", label: "as they are" }, { value: "black", label: "black" }], (value) => change({ ...pens, darken: value === "black" }))}
    </Section>
  );
}

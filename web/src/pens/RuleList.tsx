import { useState } from "react";
import type { Schemas } from "../api/client";
import type { PenRule, PenSet, Stroke } from "../api/pens";
import { mm } from "../paper/geometry";
import { RuleFields } from "./RuleFields";
import { Specimen } from "./Specimen";
import * as texts from "./texts";

interface Props {
  pens: PenSet;
  counts: readonly number[] | undefined;
  rest: number | undefined;
  facts: Schemas["PenFacts"];
  layers: readonly string[];
  colours: readonly string[];
  stroke: Stroke | null;
  locked: boolean;
  change: (pens: PenSet) => void;
}

/** A rule's conditions in words. */
export function conditionsOf(rule: PenRule): string {
  const span = rule.wider != null || rule.narrower != null ? texts.drawnToMm(rule.wider ?? 0, rule.narrower ?? "any") : "";
  return (
    [
      rule.classes.map((own) => (own === "smooth" ? "tangent" : own)).join(", "),
      rule.layer && texts.layer2(rule.layer),
      rule.colour && texts.colour2(rule.colour),
      rule.component && texts.inWord(rule.component),
      span,
    ]
      .filter(Boolean)
      .join(" · ") || "everything"
  );
}

const FRESH = {
  name: "",
  layer: "",
  colour: "",
  classes: [],
  component: "",
  wider: null,
  narrower: null,
  width: 0.25,
  ink: "source",
  line_type: "as drawn",
  dashes: [],
  tint: 100,
  caps: null,
  joins: null,
} as PenRule;

/** The rules of a pen set, from the top: the first that fits a stroke draws it. */
export function RuleList({ pens, counts, rest, facts, layers, colours, stroke, locked, change }: Props) {
  const [open, setOpen] = useState<number | null>(null);
  const rules = pens.rules;
  const set = (made: PenRule[]) => change({ ...pens, rules: made });
  const put = (at: number, fields: Partial<PenRule>) => set(rules.map((rule, n) => (n === at ? { ...rule, ...fields } : rule)));
  const swap = (at: number, to: number) => {
    const made = [...rules];
    const [moved] = made.splice(at, 1);
    made.splice(to, 0, moved as PenRule);
    setOpen(open === at ? to : null);
    set(made);
  };
  const width = (rule: PenRule) => pens.all_widths ?? rule.width ?? 0.25;
  return (
    <>
      <ol className="rules" aria-label={texts.rules}>
        {rules.map((rule, at) => (
          <li key={at} className={stroke?.rule === at ? "drew" : ""}>
            <button type="button" className="rule" aria-expanded={open === at} onClick={() => setOpen(open === at ? null : at)}>
              <Specimen rule={rule} types={facts.line_types} width={width(rule)} />
              <span>
                <strong>{rule.name || conditionsOf(rule)}</strong>
                <small className="soft">{rule.name ? conditionsOf(rule) : ""}</small>
              </span>
              <em>
                {pens.all_widths ? mm(pens.all_widths, 4) : rule.width == null ? "as drawn" : mm(rule.width, 4)}
                <small className="soft">
                  {counts?.[at] ?? "…"} {texts.strokes}
                </small>
              </em>
            </button>
            {open === at && !locked && (
              <>
                <p className="layer-acts">
                  <button type="button" disabled={at === 0} title={at === 0 ? texts.itIsTheFirstRule : undefined} onClick={() => swap(at, at - 1)}>
                    {texts.up}
                  </button>
                  <button
                    type="button"
                    disabled={at === rules.length - 1}
                    title={at === rules.length - 1 ? texts.itIsTheLastRule : undefined}
                    onClick={() => swap(at, at + 1)}
                  >
                    {texts.down}
                  </button>
                  <button
                    type="button"
                    onClick={() => {
                      setOpen(null);
                      set(rules.filter((_, n) => n !== at));
                    }}
                  >
                    {texts.takeOut}
                  </button>
                </p>
                <RuleFields rule={rule} facts={facts} layers={layers} colours={colours} change={(fields) => put(at, fields)} />
              </>
            )}
          </li>
        ))}
      </ol>
      <p className="soft small">{rest === undefined ? "" : rest ? texts.strokesFitNoRuleAnd(rest) : texts.everyStrokeIsDrawnBy}</p>
      {!locked && (
        <p className="layer-acts">
          <button
            type="button"
            onClick={() => {
              set([FRESH, ...rules]);
              setOpen(0);
            }}
          >
            {texts.addARuleAtThe}
          </button>
          {stroke && (
            <button
              type="button"
              onClick={() => {
                const more = stroke.layer ? { layer: stroke.layer } : { classes: [stroke.edge_class] as PenRule["classes"] };
                set([{ ...FRESH, ...more, colour: stroke.source_colour ?? "", width: stroke.width }, ...rules]);
                setOpen(0);
              }}
            >
              {texts.addOneForThisStroke}
            </button>
          )}
        </p>
      )}
    </>
  );
}

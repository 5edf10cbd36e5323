import { Select } from "antd";
import type { Schemas } from "../api/client";
import type { PenRule } from "../api/pens";
import { readLength } from "../api/queries";
import { mm } from "../paper/geometry";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

const ENDS = ["flat", "round", "square"] as const;
const JOINS = ["mitre", "round", "bevel"] as const;
const COLOUR = /^#[0-9a-f]{6}$/;

interface Props {
  rule: PenRule;
  facts: Schemas["PenFacts"];
  layers: readonly string[];
  colours: readonly string[];
  change: (fields: Partial<PenRule>) => void;
}

const readColour = async (text: string) => {
  const plain = text.trim().toLowerCase();
  if (!plain || plain === "any") return "";
  if (!COLOUR.test(plain)) throw new Error(texts.isNotAColourWrite(text));
  return plain;
};

const readWidth = (empty: string) => async (text: string) => {
  if (!text.trim() || text.trim() === empty) return empty;
  if (/^hairline$/i.test(text.trim())) return "0.0254";
  const width = (await readLength(text)).mm;
  if (width <= 0 || width > 20) throw new Error(texts.isNotALineWidth(text));
  return mm(width, 4);
};

const readDashes = async (text: string) => {
  const parts = text
    .split(/[,;\s]+/)
    .filter(Boolean)
    .map(Number);
  if (parts.length < 2 || parts.length % 2 || parts.some((n) => !(n >= 0)) || !parts.some((n) => n > 0)) throw new Error(texts.writeDashesAndGapsIn);
  return parts.join(", ");
};

/** What a rule takes hold of, and what it makes of it. */
export function RuleFields({ rule, facts, layers, colours, change }: Props) {
  const number = (text: string, empty: string) => (text === empty ? null : Number(text));
  return (
    <div className="rule-fields">
      <h4>{texts.appliesTo}</h4>
      <Fact name={texts.edges}>
        <Select
          mode="multiple"
          size="small"
          variant="borderless"
          aria-label={texts.edgeClasses}
          placeholder={texts.all}
          value={rule.classes}
          options={Object.entries(facts.classes).map(([value, label]) => ({ value: value as PenRule["classes"][number], label }))}
          onChange={(classes) => change({ classes })}
        />
      </Fact>
      <Fact name={texts.layer}>
        <TypedField
          label={texts.layerOfTheRule}
          value={rule.layer || "any"}
          read={async (text) => (text.trim() === "any" ? "any" : text.trim() || "any")}
          onChange={(text) => change({ layer: text === "any" ? "" : text })}
        />
        {!!layers.length && (
          <span className="soft small">
            {texts.suchAs} {layers.slice(0, 6).join(", ")}
            {layers.length > 6 ? " …" : ""}
          </span>
        )}
      </Fact>
      <Fact name={texts.colour}>
        <TypedField
          label={texts.sourceColourOfTheRule}
          value={rule.colour || "any"}
          read={async (text) => (await readColour(text)) || "any"}
          onChange={(text) => change({ colour: text === "any" ? "" : text })}
        />
        <span className="swatches">
          {colours.slice(0, 12).map((colour) => (
            <button
              key={colour}
              type="button"
              className="swatch"
              style={{ background: colour }}
              aria-label={texts.sourceColour(colour)}
              aria-pressed={rule.colour === colour}
              onClick={() => change({ colour })}
            />
          ))}
        </span>
      </Fact>
      <Fact name={texts.component}>
        <TypedField
          label={texts.componentOfTheRule}
          value={rule.component || "any"}
          read={async (text) => text.trim() || "any"}
          onChange={(text) => change({ component: text === "any" ? "" : text })}
        />
      </Fact>
      <Fact name={texts.sourceWidth}>
        <span className="pair">
          <TypedField
            label={texts.sourceWidthFrom}
            value={rule.wider == null ? "any" : mm(rule.wider, 4)}
            read={readWidth("any")}
            onChange={(text) => change({ wider: number(text, "any") })}
          />
          <span className="soft">{texts.to}</span>
          <TypedField
            label={texts.sourceWidthTo}
            value={rule.narrower == null ? "any" : mm(rule.narrower, 4)}
            read={readWidth("any")}
            onChange={(text) => change({ narrower: number(text, "any") })}
          />
        </span>
      </Fact>
      <h4>{texts.drawnWith}</h4>
      <Fact name={texts.width}>
        <TypedField
          label={texts.widthOfTheRule}
          value={rule.width == null ? "as drawn" : mm(rule.width, 4)}
          read={readWidth("as drawn")}
          onChange={(text) => change({ width: number(text, "as drawn") })}
        />
      </Fact>
      <div className="chips width-chips">
        {[facts.hairline, ...facts.widths].map((width) => (
          <button
            key={width}
            type="button"
            aria-pressed={rule.width === width}
            onClick={() => change({ width })}
            aria-label={width === facts.hairline ? "hairline" : texts.mm(width)}
          >
            {width === facts.hairline ? "hair" : width}
          </button>
        ))}
      </div>
      <Fact name={texts.colour}>
        <span className="pair">
          <select
            aria-label={texts.colourOfTheRule}
            value={rule.ink === "source" ? "source" : rule.ink === "#000000" ? "black" : "one"}
            onChange={(event) => change({ ink: { source: "source", black: "#000000", one: "#1f6f5c" }[event.target.value] ?? "source" })}
          >
            <option value="source">{texts.itsOwnColour}</option>
            <option value="black">{texts.black}</option>
            <option value="one">{texts.oneColour}</option>
          </select>
          {rule.ink !== "source" && (
            <input type="color" aria-label={texts.customColourOfTheRule} value={rule.ink} onChange={(event) => change({ ink: event.target.value })} />
          )}
        </span>
      </Fact>
      <Fact name={texts.lineType}>
        <select
          aria-label={texts.lineTypeOfTheRule}
          value={rule.line_type}
          onChange={(event) => change({ line_type: event.target.value, ...(event.target.value === "own" && !rule.dashes.length ? { dashes: [12, 3] } : {}) })}
        >
          {["as drawn", ...Object.keys(facts.line_types), "own"].map((name) => (
            <option key={name} value={name}>
              {name === "own" ? texts.aPatternOfYourOwn : name}
            </option>
          ))}
        </select>
      </Fact>
      {rule.line_type === "own" && (
        <Fact name={texts.pattern}>
          <TypedField
            label={texts.patternOfTheRule}
            value={rule.dashes.join(", ")}
            read={readDashes}
            onChange={(text) => change({ dashes: text.split(", ").map(Number) })}
            suffix={texts.width2}
          />
        </Fact>
      )}
      <Fact name={texts.tint}>
        <TypedField
          label={texts.tintOfTheRule}
          value={String(rule.tint)}
          suffix={texts.ofTheColour}
          read={async (text) => {
            const value = Number(text.replace("%", ""));
            if (!(value >= 0 && value <= 100)) throw new Error(texts.write0To100Per);
            return String(Math.round(value));
          }}
          onChange={(text) => change({ tint: Number(text) })}
        />
      </Fact>
      <Fact name={texts.lineCaps}>
        <span className="pair">
          <select
            aria-label={texts.lineCapsOfTheRule}
            value={rule.caps ?? ""}
            onChange={(event) => change({ caps: (event.target.value || null) as PenRule["caps"] })}
          >
            <option value="">{texts.asDrawn}</option>
            {ENDS.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
          <span className="soft">{texts.joins}</span>
          <select
            aria-label={texts.joinsOfTheRule}
            value={rule.joins ?? ""}
            onChange={(event) => change({ joins: (event.target.value || null) as PenRule["joins"] })}
          >
            <option value="">{texts.asDrawn}</option>
            {JOINS.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </span>
      </Fact>
    </div>
  );
}

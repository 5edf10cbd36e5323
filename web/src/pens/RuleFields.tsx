import { Select } from "antd";
import type { Schemas } from "../api/client";
import type { PenRule } from "../api/pens";
import { readLength } from "../api/queries";
import { mm } from "../sheets/geometry";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";

const CLASSES: PenRule["classes"] = ["visible", "outline", "wire", "smooth", "hidden", "hatching", "centre line", "cutting plane", "cutting plane end", "dimension", "text", "table", "frame", "drawn"];
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
  if (!COLOUR.test(plain)) throw new Error(`“${text}” is not a colour: write it as #rrggbb, or any.`);
  return plain;
};

const readWidth = (empty: string) => async (text: string) => {
  if (!text.trim() || text.trim() === empty) return empty;
  if (/^hairline$/i.test(text.trim())) return "0.0254";
  const width = (await readLength(text)).mm;
  if (width <= 0 || width > 20) throw new Error(`“${text}” is not a line width: write up to 20 mm, such as 0.35, or hairline.`);
  return mm(width, 4);
};

const readDashes = async (text: string) => {
  const parts = text.split(/[,;\s]+/).filter(Boolean).map(Number);
  if (parts.length < 2 || parts.length % 2 || parts.some((n) => !(n >= 0)) || !parts.some((n) => n > 0))
    throw new Error("Write dashes and gaps in turn, in multiples of the width, such as 12, 3.");
  return parts.join(", ");
};

/** What a rule takes hold of, and what it makes of it. */
export function RuleFields({ rule, facts, layers, colours, change }: Props) {
  const number = (text: string, empty: string) => (text === empty ? null : Number(text));
  return (
    <div className="rule-fields">
      <h4>Applies to</h4>
      <Fact name="Edges">
        <Select
          mode="multiple"
          size="small"
          variant="borderless"
          aria-label="Edge classes"
          placeholder="all"
          value={rule.classes}
          options={CLASSES.map((value) => ({ value, label: value === "smooth" ? "tangent" : value }))}
          onChange={(classes) => change({ classes })}
        />
      </Fact>
      <Fact name="Layer">
        <TypedField label="Layer of the rule" value={rule.layer || "any"} read={async (text) => (text.trim() === "any" ? "any" : text.trim() || "any")} onChange={(text) => change({ layer: text === "any" ? "" : text })} />
        {!!layers.length && <span className="soft small">such as {layers.slice(0, 6).join(", ")}{layers.length > 6 ? " …" : ""}</span>}
      </Fact>
      <Fact name="Colour">
        <TypedField label="Source colour of the rule" value={rule.colour || "any"} read={async (text) => (await readColour(text)) || "any"} onChange={(text) => change({ colour: text === "any" ? "" : text })} />
        <span className="swatches">
          {colours.slice(0, 12).map((colour) => (
            <button key={colour} type="button" className="swatch" style={{ background: colour }} aria-label={`Source colour ${colour}`} aria-pressed={rule.colour === colour} onClick={() => change({ colour })} />
          ))}
        </span>
      </Fact>
      <Fact name="Component">
        <TypedField label="Component of the rule" value={rule.component || "any"} read={async (text) => text.trim() || "any"} onChange={(text) => change({ component: text === "any" ? "" : text })} />
      </Fact>
      <Fact name="Source width">
        <span className="pair">
          <TypedField label="Source width from" value={rule.wider == null ? "any" : mm(rule.wider, 4)} read={readWidth("any")} onChange={(text) => change({ wider: number(text, "any") })} />
          <span className="soft">to</span>
          <TypedField label="Source width to" value={rule.narrower == null ? "any" : mm(rule.narrower, 4)} read={readWidth("any")} onChange={(text) => change({ narrower: number(text, "any") })} />
        </span>
      </Fact>
      <h4>Drawn with</h4>
      <Fact name="Width">
        <TypedField label="Width of the rule" value={rule.width == null ? "as drawn" : mm(rule.width, 4)} read={readWidth("as drawn")} onChange={(text) => change({ width: number(text, "as drawn") })} />
      </Fact>
      <div className="chips width-chips">
        {[facts.hairline, ...facts.widths].map((width) => (
          <button key={width} type="button" aria-pressed={rule.width === width} onClick={() => change({ width })} aria-label={width === facts.hairline ? "hairline" : `${width} mm`}>
            {width === facts.hairline ? "hair" : width}
          </button>
        ))}
      </div>
      <Fact name="Colour">
        <span className="pair">
          <select aria-label="Colour of the rule" value={rule.ink === "source" ? "source" : rule.ink === "#000000" ? "black" : "one"} onChange={(event) => change({ ink: { source: "source", black: "#000000", one: "#1f6f5c" }[event.target.value] ?? "source" })}>
            <option value="source">its own colour</option>
            <option value="black">black</option>
            <option value="one">one colour</option>
          </select>
          {rule.ink !== "source" && <input type="color" aria-label="Custom colour of the rule" value={rule.ink} onChange={(event) => change({ ink: event.target.value })} />}
        </span>
      </Fact>
      <Fact name="Line type">
        <select aria-label="Line type of the rule" value={rule.line_type} onChange={(event) => change({ line_type: event.target.value, ...(event.target.value === "own" && !rule.dashes.length ? { dashes: [12, 3] } : {}) })}>
          {["as drawn", ...Object.keys(facts.line_types), "own"].map((name) => (
            <option key={name} value={name}>
              {name === "own" ? "a pattern of your own" : name}
            </option>
          ))}
        </select>
      </Fact>
      {rule.line_type === "own" && (
        <Fact name="Pattern">
          <TypedField label="Pattern of the rule" value={rule.dashes.join(", ")} read={readDashes} onChange={(text) => change({ dashes: text.split(", ").map(Number) })} suffix="× width" />
        </Fact>
      )}
      <Fact name="Tint">
        <TypedField
          label="Tint of the rule"
          value={String(rule.screening)}
          suffix="% of the colour"
          read={async (text) => {
            const value = Number(text.replace("%", ""));
            if (!(value >= 0 && value <= 100)) throw new Error("Write 0 to 100 per cent.");
            return String(Math.round(value));
          }}
          onChange={(text) => change({ screening: Number(text) })}
        />
      </Fact>
      <Fact name="Line caps">
        <span className="pair">
          <select aria-label="Line caps of the rule" value={rule.ends ?? ""} onChange={(event) => change({ ends: (event.target.value || null) as PenRule["ends"] })}>
            <option value="">as drawn</option>
            {ENDS.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
          <span className="soft">joins</span>
          <select aria-label="Joins of the rule" value={rule.joins ?? ""} onChange={(event) => change({ joins: (event.target.value || null) as PenRule["joins"] })}>
            <option value="">as drawn</option>
            {JOINS.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </span>
      </Fact>
    </div>
  );
}

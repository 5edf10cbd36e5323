import type { Recipe } from "../api/output";
import { useShippedWriting, type FlatWriting } from "../api/metal";
import type { Schemas } from "../api/client";
import { millimetres, words } from "../views/typing";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import "./flat.css";
import * as texts from "./texts";

type Line = Schemas["LineWriting"];

interface Props {
  recipe: Recipe;
  change: (fields: Partial<Recipe>) => void;
  locked?: boolean;
}

const palette = async (text: string) => {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1 || value > 255) throw new Error(texts.isNoColour(text));
  return String(value);
};

const wide = async (text: string) => {
  const value = Number(await millimetres(text));
  if (!(value >= 0 && value <= 2.11)) throw new Error(texts.isNoWidth(text));
  return String(value);
};

const within = async (text: string) => {
  const value = Number(await millimetres(text));
  if (!(value > 0 && value <= 1)) throw new Error(texts.isNoTolerance(text));
  return String(value);
};

/** How a recipe writes flat patterns as DXF: version, curves, and each kind of line. */
export function FlatWritingFields({ recipe, change, locked }: Props) {
  const { data: shipped } = useShippedWriting();
  const writing = recipe.flat ?? shipped;
  if (!writing) return null;
  const set = (fields: Partial<FlatWriting>) => change({ flat: { ...writing, ...fields } });
  const line = (kind: string, fields: Partial<Line>) => set({ lines: { ...writing.lines, [kind]: { ...(writing.lines[kind] as Line), ...fields } } });
  const choose = <K extends "version" | "curves" | "other_side">(name: string, key: K, options: readonly (readonly [FlatWriting[K], string])[]) => (
    <Fact name={name}>
      <select aria-label={name} disabled={locked} value={writing[key]} onChange={(event) => set({ [key]: event.target.value })}>
        {options.map(([value, label]) => (
          <option key={value} value={value}>
            {label}
          </option>
        ))}
      </select>
    </Fact>
  );
  return (
    <>
      {choose(texts.version, "version", [
        ["R12", "R12"],
        ["R2000", "R2000"],
        ["R2010", "R2010"],
        ["R2018", "R2018"],
      ])}
      {choose(texts.curves, "curves", [
        ["arcs", "arcs"],
        ["splines", "splines"],
        ["lines", "lines"],
      ])}
      {writing.curves !== "splines" && (
        <Fact name={texts.tolerance}>
          {locked ? (
            `${writing.tolerance} ${texts.mm}`
          ) : (
            <TypedField
              label={texts.tolerance}
              value={String(writing.tolerance)}
              read={within}
              onChange={(text) => set({ tolerance: Number(text) })}
              suffix={texts.mm}
            />
          )}
        </Fact>
      )}
      <Fact name={texts.contours}>
        <select
          aria-label={texts.contours}
          disabled={locked}
          value={writing.joined ? "joined" : "single"}
          onChange={(event) => set({ joined: event.target.value === "joined" })}
        >
          <option value="joined">{texts.joined}</option>
          <option value="single">{texts.single}</option>
        </select>
      </Fact>
      {choose(texts.otherSide, "other_side", [
        ["never", texts.never],
        ["when there is something", texts.whenNeeded],
        ["always", texts.always],
        ["as a property of the part says", texts.asThePartSays],
      ])}
      {writing.other_side === "as a property of the part says" && (
        <Fact name={texts.saidBy}>
          {locked ? writing.said_by : <TypedField label={texts.saidBy} value={writing.said_by} read={words} onChange={(said_by) => set({ said_by })} />}
        </Fact>
      )}
      {writing.other_side !== "never" && !locked && (
        <Fact name={texts.affix}>
          <TypedField label={texts.affix} value={writing.affix} read={words} onChange={(affix) => set({ affix })} />
        </Fact>
      )}
      <table className="flat-lines">
        <thead>
          <tr>
            {["", texts.kindOfLine, texts.layer, texts.flatColour, texts.type, texts.width, texts.on].map((head) => (
              <th key={head}>{head}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {Object.entries(writing.lines).map(([kind, own]) => (
            <tr key={kind}>
              <td>
                <input
                  type="checkbox"
                  aria-label={texts.writes(kind)}
                  disabled={locked}
                  checked={own.written}
                  onChange={(event) => line(kind, { written: event.target.checked })}
                />
              </td>
              <td>{kind}</td>
              <td>
                {locked ? own.layer : <TypedField label={texts.layerOf(kind)} value={own.layer} read={words} onChange={(layer) => line(kind, { layer })} />}
              </td>
              <td className="number">
                {locked ? (
                  own.colour
                ) : (
                  <TypedField
                    label={texts.colourOf(kind)}
                    value={String(own.colour)}
                    read={palette}
                    onChange={(text) => line(kind, { colour: Number(text) })}
                  />
                )}
              </td>
              <td>
                <select
                  aria-label={texts.typeOf(kind)}
                  disabled={locked}
                  value={own.line_type}
                  onChange={(event) => line(kind, { line_type: event.target.value as Line["line_type"] })}
                >
                  {["continuous", "dashed", "chain", "dotted"].map((type) => (
                    <option key={type} value={type}>
                      {type}
                    </option>
                  ))}
                </select>
              </td>
              <td className="number">
                {locked ? (
                  own.width
                ) : (
                  <TypedField label={texts.widthOf(kind)} value={String(own.width)} read={wide} onChange={(text) => line(kind, { width: Number(text) })} />
                )}
              </td>
              <td>
                <input
                  type="checkbox"
                  aria-label={texts.isOn(kind)}
                  disabled={locked}
                  checked={own.on}
                  onChange={(event) => line(kind, { on: event.target.checked })}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

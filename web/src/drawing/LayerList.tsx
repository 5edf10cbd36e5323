import { Input } from "antd";
import { useEffect, useState } from "react";
import type { Layer, Schemas } from "../api/client";
import { readLength } from "../api/queries";
import { mm } from "../paper/geometry";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

type Style = Schemas["LayerStyle"];

interface Props {
  layers: readonly Layer[];
  off: readonly string[];
  styles: Record<string, Style>;
  onSwitch: (layers: string[], shown: boolean) => void;
  onStyle?: (layer: string, style: Style | null) => void;
  /** On a sheet for a cutter: the colour and the width by which it knows what to do. */
  codes?: Schemas["Codes"];
}

const ISO_WIDTHS = ["0.13", "0.18", "0.25", "0.35", "0.5", "0.7", "1", "1.4", "2"];
const SEARCH_FROM = 8;

const wayOf = (codes: Schemas["Codes"], style: Style | undefined, shown: boolean) =>
  !shown ? "out" : ((["cut", "score", "engrave"] as const).find((way) => style?.colour?.toLowerCase() === codes[way].colour.toLowerCase()) ?? "");

/** A drawing's layers: shown or not, colour and width, as the file has them or as this excerpt wants them. */
export function LayerList({ layers, off, styles, onSwitch, onStyle, codes }: Props) {
  const [search, setSearch] = useState("");
  const [open, setOpen] = useState<string | null>(null);
  const wanted = layers.filter((layer) => layer.name.toLowerCase().includes(search.trim().toLowerCase()));
  // what was just switched shows at once, before the answer
  const [switched, setSwitched] = useState<Record<string, boolean>>({});
  const known = JSON.stringify(off);
  useEffect(() => setSwitched({}), [known]);
  const turn = (names: string[], shown: boolean) => {
    setSwitched((now) => ({ ...now, ...Object.fromEntries(names.map((name) => [name, shown])) }));
    onSwitch(names, shown);
  };
  const readWidth = async (text: string) => {
    const width = (await readLength(text)).mm;
    if (width < 0 || width > 10) throw new Error(texts.isNotALineWidth(text, ISO_WIDTHS[3]));
    return mm(width, 4);
  };
  return (
    <div className="layers">
      {layers.length >= SEARCH_FROM && (
        <Input
          size="small"
          allowClear
          placeholder={texts.findALayer}
          aria-label={texts.findALayer}
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      )}
      <p className="layer-acts">
        {[true, false].map((shown) => (
          <button
            key={String(shown)}
            type="button"
            onClick={() =>
              turn(
                wanted.map((layer) => layer.name),
                shown,
              )
            }
          >
            {shown ? "show" : "hide"} {search ? "these" : "all"}
          </button>
        ))}
      </p>
      <ul className="rows" aria-label={texts.layers}>
        {wanted.map((layer) => {
          const style = styles[layer.name];
          const shown = switched[layer.name] ?? !off.includes(layer.name);
          const colour = style?.colour ?? layer.colour;
          return (
            <li key={layer.name} data-layer={layer.name} className={shown ? "" : "layer-off"}>
              <div className="layer-row">
                <input type="checkbox" checked={shown} onChange={() => turn([layer.name], !shown)} aria-label={texts.show(layer.name)} />
                <button
                  type="button"
                  className="row"
                  onClick={() => setOpen(open === layer.name ? null : layer.name)}
                  disabled={!onStyle}
                  aria-expanded={onStyle ? open === layer.name : undefined}
                >
                  <i className="swatch" style={{ background: colour }} />
                  <span>{layer.name}</span>
                  <em>
                    {mm(style?.width ?? layer.width, 3)} · {layer.count}
                  </em>
                </button>
              </div>
              {codes && onStyle && (
                <select
                  aria-label={texts.whatIsDoneOn(layer.name)}
                  value={wayOf(codes, style, shown)}
                  onChange={({ target }) => {
                    const way = target.value as keyof typeof codes | "out" | "";
                    if (way === "out") return turn([layer.name], false);
                    if (!shown) turn([layer.name], true);
                    onStyle(layer.name, way ? { colour: codes[way].colour, width: codes[way].width } : null);
                  }}
                >
                  <option value="">{texts.asDrawn}</option>
                  <option value="cut">{texts.cutWay}</option>
                  <option value="score">{texts.scoreWay}</option>
                  <option value="engrave">{texts.engraveWay}</option>
                  <option value="out">{texts.outWay}</option>
                </select>
              )}
              {open === layer.name && onStyle && (
                <div className="row-fields note-facts">
                  <label htmlFor={`colour-${layer.name}`}>{texts.colour}</label>
                  <input
                    id={`colour-${layer.name}`}
                    type="color"
                    value={colour}
                    onChange={(event) => onStyle(layer.name, { colour: event.target.value, width: style?.width ?? null })}
                  />
                  <span>{texts.width}</span>
                  <TypedField
                    label={texts.widthOf(layer.name)}
                    value={mm(style?.width ?? layer.width, 4)}
                    read={readWidth}
                    onChange={(text) => onStyle(layer.name, { colour: style?.colour ?? null, width: Number(text) })}
                  />
                  {style && (
                    <button type="button" className="as-file" onClick={() => onStyle(layer.name, null)}>
                      {texts.asInTheFile}
                    </button>
                  )}
                </div>
              )}
              {!onStyle && (!layer.on || layer.frozen || !layer.printed) && (
                <p className="soft small">
                  {[...(layer.on ? [] : ["off"]), ...(layer.frozen ? ["frozen"] : []), ...(layer.printed ? [] : [texts.notPrinted])].join(", ")}{" "}
                  {texts.inTheFile}
                </p>
              )}
            </li>
          );
        })}
      </ul>
      {!wanted.length && <p className="soft">{texts.noLayerOfThatName}</p>}
    </div>
  );
}

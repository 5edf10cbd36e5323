import { Segmented, Select } from "antd";
import { useState } from "react";
import { tryRecipe, type Recipe } from "../api/output";
import type { PenSet } from "../api/pens";
import { readFormat, readLength } from "../api/queries";
import { mm } from "../sheets/geometry";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";

interface Props {
  recipe: Recipe;
  sets: readonly PenSet[];
  fields: readonly string[];
  change: (fields: Partial<Recipe>) => void;
  locked?: boolean;
}

type Patterns = "left_out" | "start_hidden" | "locked" | "layer_order" | "words";
const lines = (text: string) => text.split(/[,;\n]+/).map((part) => part.trim()).filter(Boolean);

/** All choices of a recipe, in groups that open. */
export function RecipeFields({ recipe, sets, fields, change, locked }: Props) {
  const [group, setGroup] = useState("Colour");
  const choose = <K extends keyof Recipe>(name: string, key: K, options: readonly (readonly [Recipe[K] & string, string])[]) => (
    <Fact name={name}>
      <Segmented size="small" disabled={locked} aria-label={name} value={recipe[key] as string} options={options.map(([value, label]) => ({ value, label }))} onChange={(value) => change({ [key]: value } as Partial<Recipe>)} />
    </Fact>
  );
  const typed = (name: string, label: string, value: string, read: (text: string) => Promise<string>, set: (text: string) => void, suffix?: string) => (
    <Fact name={name}>{locked ? `${value} ${suffix ?? ""}` : <TypedField label={label} value={value} read={read} onChange={set} suffix={suffix} />}</Fact>
  );
  const patterns = (name: string, key: Patterns, empty: string) =>
    typed(name, name, recipe[key].join(", ") || empty, async (text) => lines(text).filter((part) => part !== empty).join(", ") || empty, (text) => change({ [key]: text === empty ? [] : lines(text) } as Partial<Recipe>));
  const dots = (name: string, label: string, key: "dpi" | "picture_dpi") =>
    typed(name, label, String(recipe[key]), async (text) => {
      const value = Math.round(Number(text.replace(/dpi/i, "")));
      if (!(value > 0)) throw new Error(`“${text}” is no resolution: write dots per inch, such as 600.`);
      await tryRecipe({ ...recipe, [key]: value });
      return String(value);
    }, (text) => change({ [key]: Number(text) }), "dpi");
  const words = (name: string, key: "title" | "author" | "subject" | "keywords", empty: string) => typed(name, name, recipe[key] || empty, async (text) => text.trim() || empty, (text) => change({ [key]: text === empty ? "" : text }));
  const groups: Record<string, React.ReactNode> = {
    Colour: (
      <>
        {choose("Colour", "colour", [["colour", "as it is"], ["grey", "greys"], ["black", "black"]])}
        <Fact name="Crossing">
          <Segmented size="small" disabled={locked} aria-label="Crossing lines" value={recipe.crossing ?? "pens"} options={[{ value: "pens", label: "as the pens" }, { value: "cover", label: "cover" }, { value: "blend", label: "blend" }]} onChange={(value) => change({ crossing: value === "pens" ? null : (value as "cover" | "blend") })} />
        </Fact>
        <Fact name="Pens">
          <Select size="small" variant="borderless" disabled={locked} aria-label="Pens of the recipe" value={recipe.pens?.id ?? ""} options={[{ value: "", label: "each sheet's own" }, ...sets.map((set) => ({ value: set.id, label: set.name }))]} onChange={(id) => change({ pens: sets.find((set) => set.id === id) ?? null })} />
        </Fact>
      </>
    ),
    Layers: (
      <>
        {choose("In the file", "layers", [["source", "the source's"], ["source and edge classes", "and edges"], ["none", "none"]])}
        {patterns("Left out", "left_out", "nothing")}
        {patterns("Start hidden", "start_hidden", "none")}
        {patterns("Locked", "locked", "none")}
        {patterns("Order", "layer_order", "by name")}
        <p className="soft small">names with * for any letters, several with commas</p>
      </>
    ),
    "Text and pictures": (
      <>
        {choose("Text", "text", [["text", "as text"], ["outlines", "as outlines"]])}
        {dots("Line work", "Resolution of line work", "dpi")}
        {dots("Pictures", "Resolution of pictures and gradients", "picture_dpi")}
        {choose("Compression", "compression", [["lossless", "without loss"], ["jpeg", "as JPEG"]])}
        {recipe.compression === "jpeg" &&
          typed("Quality", "Quality of JPEG", String(recipe.quality), async (text) => {
            const value = Math.round(Number(text));
            await tryRecipe({ ...recipe, quality: value });
            return String(value);
          }, (text) => change({ quality: Number(text) }), "of 100")}
      </>
    ),
    File: (
      <>
        {choose("Kind", "file", [["plain", "plain"], ["archive", "archive"], ["smallest", "smallest"], ["cutter", "cutter"]])}
        <Fact name="Ruler">
          <Segmented size="small" disabled={locked} aria-label="Measurement viewports" value={recipe.viewports ? "yes" : "no"} options={[{ value: "yes", label: "reads model lengths" }, { value: "no", label: "left out" }]} onChange={(value) => change({ viewports: value === "yes" })} />
        </Fact>
        {recipe.file === "archive" && <p className="soft small">PDF/A-2b has no layers here, and its validator approves it without viewports.</p>}
        {words("Title", "title", "job, sheet")}
        {words("Author", "author", "the creator")}
        {words("Subject", "subject", "none")}
        {words("Keywords", "keywords", "none")}
        <p className="soft small">{fields.map((field) => `{${field}}`).join(" ")}</p>
      </>
    ),
    Requirements: (
      <>
        {typed("Format", "Format that the recipe expects", recipe.format || "any", async (text) => (!text.trim() || text.trim() === "any" ? "any" : (await readFormat(text)).name), (text) => change({ format: text === "any" ? "" : text }))}
        <Fact name="Orientation">
          <Segmented size="small" disabled={locked} aria-label="Orientation that the recipe expects" value={recipe.orientation ?? "any"} options={["any", "landscape", "portrait"]} onChange={(value) => change({ orientation: value === "any" ? null : (value as Recipe["orientation"]) })} />
        </Fact>
        {typed("Least line", "Least line width", mm(recipe.least_width, 4), async (text) => mm((await readLength(text)).mm, 4), (text) => change({ least_width: Number(text) }), "mm")}
        {patterns("Words", "words", "none")}
        {typed("At most", "Largest file", recipe.size_limit == null ? "any size" : String(recipe.size_limit), async (text) => {
          if (!text.trim() || text.trim() === "any size") return "any size";
          const value = Number(text.replace(/mb/i, ""));
          if (!(value > 0)) throw new Error(`“${text}” is no size: write megabytes, such as 10.`);
          return String(value);
        }, (text) => change({ size_limit: text === "any size" ? null : Number(text) }), "MB")}
      </>
    ),
  };
  return (
    <div className="recipe-fields">
      <div className="chips" role="tablist" aria-label="Choices of the recipe">
        {Object.keys(groups).map((name) => (
          <button key={name} type="button" role="tab" aria-selected={group === name} onClick={() => setGroup(name)}>
            {name}
          </button>
        ))}
      </div>
      <div role="tabpanel">{groups[group]}</div>
    </div>
  );
}

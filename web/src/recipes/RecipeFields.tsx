import { Segmented, Select } from "antd";
import { Suspense, useState } from "react";
import { tryRecipe, type Recipe } from "../api/output";
import type { PenSet } from "../api/pens";
import { readFormat, readLength } from "../api/queries";
import { part } from "../common/part";
import { mm } from "../paper/geometry";
import { Fact } from "../ticket/Ticket";
import { fieldsOf } from "./fields";
import * as texts from "./texts";

const FlatWritingFields = part(async () => (await import("./FlatWritingFields")).FlatWritingFields);

interface Props {
  recipe: Recipe;
  sets: readonly PenSet[];
  fields: readonly string[];
  change: (fields: Partial<Recipe>) => void;
  locked?: boolean;
}

/** What each group shows, by its name. */
function groupsOf(props: Props): Record<string, React.ReactNode> {
  const { recipe, sets, fields, change, locked } = props;
  const { choose, typed, patterns, dots, words } = fieldsOf(props);
  return {
    Colour: (
      <>
        {choose(texts.colour, "colour", [
          ["colour", texts.asItIs],
          ["grey", "greys"],
          ["black", "black"],
        ])}
        <Fact name={texts.crossing}>
          <Segmented
            size="small"
            disabled={locked}
            aria-label={texts.crossingLines}
            value={recipe.crossing ?? "pens"}
            options={[
              { value: "pens", label: texts.asThePens },
              { value: "cover", label: texts.cover },
              { value: "blend", label: texts.blend },
            ]}
            onChange={(value) => change({ crossing: value === "pens" ? null : (value as "cover" | "blend") })}
          />
        </Fact>
        <Fact name={texts.pens}>
          <Select
            size="small"
            variant="borderless"
            disabled={locked}
            aria-label={texts.pensOfTheRecipe}
            value={recipe.pens?.id ?? ""}
            options={[{ value: "", label: texts.eachSheetSOwn }, ...sets.map((set) => ({ value: set.id, label: set.name }))]}
            onChange={(id) => change({ pens: sets.find((set) => set.id === id) ?? null })}
          />
        </Fact>
      </>
    ),
    Layers: (
      <>
        {choose(texts.inTheFile, "layers", [
          ["source", texts.theSourceS],
          ["source and edge classes", texts.andEdges],
          ["none", "none"],
        ])}
        {patterns(texts.leftOut, "left_out", "nothing")}
        {patterns(texts.startHidden, "start_hidden", "none")}
        {patterns(texts.locked, "locked", "none")}
        {patterns(texts.order, "layer_order", texts.byName)}
        <p className="soft small">{texts.namesWithForAnyLetters}</p>
      </>
    ),
    "Text and pictures": (
      <>
        {choose(texts.text, "text", [
          ["text", texts.asText],
          ["outlines", texts.asOutlines],
        ])}
        {dots(texts.lineWork, texts.resolutionOfLineWork, "dpi")}
        {dots(texts.pictures, texts.resolutionOfPicturesAndGradients, "picture_dpi")}
        {choose(texts.compression, "compression", [
          ["lossless", texts.withoutLoss],
          ["jpeg", "as JPEG"],
        ])}
        {recipe.compression === "jpeg" &&
          typed(
            texts.quality,
            texts.qualityOfJpeg,
            String(recipe.quality),
            async (text) => {
              const value = Math.round(Number(text));
              await tryRecipe({ ...recipe, quality: value });
              return String(value);
            },
            (text) => change({ quality: Number(text) }),
            texts.of100,
          )}
      </>
    ),
    File: (
      <>
        {choose(texts.kind, "file", [
          ["plain", "plain"],
          ["archive", "archive"],
          ["smallest", "smallest"],
          ["cutter", "cutter"],
        ])}
        <Fact name={texts.ruler}>
          <Segmented
            size="small"
            disabled={locked}
            aria-label={texts.measurementViewports}
            value={recipe.viewports ? "yes" : "no"}
            options={[
              { value: "yes", label: texts.readsModelLengths },
              { value: "no", label: texts.leftOut2 },
            ]}
            onChange={(value) => change({ viewports: value === "yes" })}
          />
        </Fact>
        {typed(
          texts.reducedTo,
          texts.formatReducedTo,
          recipe.reduced_to,
          async (text) => (text.trim() ? (await readFormat(text)).name : ""),
          (text) => change({ reduced_to: text }),
          undefined,
          texts.notReduced,
        )}
        {recipe.reduced_to && <p className="soft small">{texts.reducedSaysSo}</p>}
        {recipe.file === "archive" && <p className="soft small">{texts.pdfA2bHasNo}</p>}
        {words(texts.title, "title", "job, sheet")}
        {words(texts.author, "author", texts.theCreator)}
        {words(texts.subject, "subject", "none")}
        {words(texts.keywords, "keywords", "none")}
        <p className="soft small">{fields.map((field) => `{${field}}`).join(" ")}</p>
      </>
    ),
    "Flat patterns": (
      <Suspense>
        <FlatWritingFields recipe={recipe} change={change} locked={locked} />
      </Suspense>
    ),
    Requirements: (
      <>
        {typed(
          texts.format,
          texts.formatThatTheRecipeExpects,
          recipe.format,
          async (text) => (text.trim() ? (await readFormat(text)).name : ""),
          (text) => change({ format: text }),
          undefined,
          texts.anyFormat,
        )}
        <Fact name={texts.orientation}>
          <Segmented
            size="small"
            disabled={locked}
            aria-label={texts.orientationThatTheRecipeExpects}
            value={recipe.orientation ?? "any"}
            options={["any", "landscape", "portrait"]}
            onChange={(value) => change({ orientation: value === "any" ? null : (value as Recipe["orientation"]) })}
          />
        </Fact>
        {typed(
          texts.leastLine,
          texts.leastLineWidth,
          mm(recipe.least_width, 4),
          async (text) => mm((await readLength(text)).mm, 4),
          (text) => change({ least_width: Number(text) }),
          "mm",
        )}
        {patterns(texts.words, "words", "none")}
        {typed(
          texts.atMost,
          texts.largestFile,
          recipe.size_limit == null ? "" : String(recipe.size_limit),
          async (text) => {
            if (!text.trim()) return "";
            const value = Number(text.replace(/mb/i, ""));
            if (!(value > 0)) throw new Error(texts.isNoSizeWriteMegabytes(text));
            return String(value);
          },
          (text) => change({ size_limit: text ? Number(text) : null }),
          texts.megabytes,
          texts.anySize,
        )}
      </>
    ),
  };
}

/** All choices of a recipe, in groups that open. */
export function RecipeFields(props: Props) {
  const [group, setGroup] = useState(texts.colour);
  const groups = groupsOf(props);
  return (
    <div className="recipe-fields">
      <div className="chips" role="tablist" aria-label={texts.choicesOfTheRecipe}>
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

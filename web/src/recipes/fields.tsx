import { Segmented } from "antd";
import { tryRecipe, type Recipe } from "../api/output";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

interface Props {
  recipe: Recipe;
  change: (fields: Partial<Recipe>) => void;
  locked?: boolean;
}

type Patterns = "left_out" | "start_hidden" | "locked" | "layer_order" | "words";
const lines = (text: string) =>
  text
    .split(/[,;\n]+/)
    .map((part) => part.trim())
    .filter(Boolean);

/** The kinds of fields that a recipe has, each of which changes it. */
export function fieldsOf({ recipe, change, locked }: Props) {
  const choose = <K extends keyof Recipe>(name: string, key: K, options: readonly (readonly [Recipe[K] & string, string])[]) => (
    <Fact name={name}>
      <Segmented
        size="small"
        disabled={locked}
        aria-label={name}
        value={recipe[key] as string}
        options={options.map(([value, label]) => ({ value, label }))}
        onChange={(value) => change({ [key]: value })}
      />
    </Fact>
  );
  const typed = (
    name: string,
    label: string,
    value: string,
    read: (text: string) => Promise<string>,
    set: (text: string) => void,
    suffix?: string,
    placeholder?: string,
  ) => (
    <Fact name={name}>
      {locked ? (
        value ? (
          `${value} ${suffix ?? ""}`
        ) : (
          <span className="soft">{placeholder}</span>
        )
      ) : (
        <TypedField label={label} value={value} read={read} onChange={set} suffix={suffix} placeholder={placeholder} />
      )}
    </Fact>
  );
  const patterns = (name: string, key: Patterns, empty: string) =>
    typed(
      name,
      name,
      recipe[key].join(", "),
      async (text) => lines(text).join(", "),
      (text) => change({ [key]: lines(text) }),
      undefined,
      empty,
    );
  const dots = (name: string, label: string, key: "dpi" | "picture_dpi") =>
    typed(
      name,
      label,
      String(recipe[key]),
      async (text) => {
        const value = Math.round(Number(text.replace(/dpi/i, "")));
        if (!(value > 0)) throw new Error(texts.isNoResolutionWriteDots(text));
        await tryRecipe({ ...recipe, [key]: value });
        return String(value);
      },
      (text) => change({ [key]: Number(text) }),
      "dpi",
    );
  const words = (name: string, key: "title" | "author" | "subject" | "keywords", empty: string) =>
    typed(
      name,
      name,
      recipe[key],
      async (text) => text.trim(),
      (text) => change({ [key]: text }),
      undefined,
      empty,
    );
  return { choose, typed, patterns, dots, words };
}

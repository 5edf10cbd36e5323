import { Select } from "antd";
import { useMemo } from "react";
import type { Component } from "../api/client";
import { useTree } from "../api/queries";
import type { Field } from "../api/solids";
import { TypedField } from "../ticket/TypedField";
import { Fact } from "../ticket/Ticket";
import * as texts from "./texts";

const AT_FIRST = 0.4;
const nameOf = (path: string) => path.split("/").at(-1) ?? path;
const walk = (component: Component): Component[] => [component, ...(component.children ?? []).flatMap(walk)];

const percent = async (text: string) => {
  const value = Number(text.replace(/\s*%$/, "").replace(",", "."));
  if (text.trim() && !(value >= 1 && value <= 100)) throw new Error(texts.from1To100Leave);
  return text.trim() && `${value}`;
};

/** Components that are seen through in every view, with how much each covers; an emptied figure is as the model has it. */
export function Covers({ field, choose }: { field: Field; choose: (fields: Partial<Field["choices"]>) => void }) {
  const { data: tree } = useTree(field.source);
  const given = field.choices.opacity;
  const options = useMemo(() => (tree?.components.flatMap(walk) ?? []).map(({ path, name }) => ({ value: path, label: name, title: path })), [tree]);
  const set = (path: string, text: string) => {
    const rest = Object.fromEntries(Object.entries(given).filter(([own]) => own !== path));
    choose({ opacity: text ? { ...rest, [path]: Number(text) / 100 } : rest });
  };
  return (
    <>
      {Object.entries(given).map(([path, cover]) => (
        <Fact key={path} name={nameOf(path)}>
          <TypedField
            label={texts.opacityOf(nameOf(path))}
            value={`${Math.round(cover * 1000) / 10}`}
            suffix="%"
            read={percent}
            onChange={(text) => set(path, text)}
          />
        </Fact>
      ))}
      <Select<string>
        size="small"
        style={{ width: "100%" }}
        showSearch={{ optionFilterProp: "label" }}
        aria-label={texts.opacity}
        placeholder={texts.opacityChooseAComponent}
        value={null}
        onSelect={(path: string) => set(path, `${(given[path] ?? AT_FIRST) * 100}`)}
        options={options}
      />
    </>
  );
}

import { Button } from "antd";
import type { Component, Item, Job, Schemas } from "../api/client";
import { useItems } from "../api/desk";
import { useEdit } from "../api/queries";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";
import * as intakeTexts from "../intake/texts";

type Facts = Schemas["PartFacts"];
const EMPTY: Facts = { name: "", number: "", material: "", mark: "", description: "", revision: "", finish: "", fields: {} };

const massText = (grams: number) => (grams >= 1000 ? texts.kg((grams / 1000).toPrecision(3)) : `${grams.toPrecision(3)} g`);

/** What is said of a part beside its model: for parts lists, title blocks and sections. */
export function PartFields({ job, source, component }: { job: Job; source: string; component: Component }) {
  const edit = useEdit(job.id);
  const { data: items } = useItems(job, source);
  const item: Item | undefined = items?.find((row) => row.components.includes(component.path));
  const facts = job.document.parts[item?.part ?? component.part] ?? EMPTY;
  const colour = job.document.colours[component.path];
  const set = (fields: Partial<Facts>) => edit.mutate({ kind: "set_part", part: item?.part ?? component.part, facts: { ...facts, ...fields } });
  const free = async (text: string) => text.trim();
  const density = async (text: string) => {
    const value = text.trim() === "" ? "" : Number(text.replace(",", ".").replace(/\s*g\/cm³$/, ""));
    if (value !== "" && !(value >= 0 && value <= 30)) throw new Error(texts.isNotADensityWrite(text));
    return `${value}`;
  };
  return (
    <>
      {item && (
        <>
          <Fact name={texts.item}>
            {item.item}, {item.components.length} {texts.off}
          </Fact>
          <Fact name={texts.called}>
            <TypedField label={texts.partName} value={item.name} read={free} onChange={(name) => set({ name })} />
          </Fact>
          <Fact name={intakeTexts.number}>
            <TypedField label={texts.partNumber} value={item.number} read={free} onChange={(number) => set({ number })} />
          </Fact>
          <Fact name={texts.material}>
            <TypedField label={texts.material} value={item.material} read={free} onChange={(material) => set({ material })} />
          </Fact>
          <Fact name={texts.density}>
            <TypedField
              label={texts.density}
              value={item.density ? `${item.density}` : ""}
              read={density}
              onChange={(text) => set({ density: text === "" ? null : Number(text) })}
            />
            <span className="soft small">
              {texts.gCm}
              {item.mass ? texts.each(massText(item.mass)) : ""}
            </span>
          </Fact>
          <div className="chips">
            <button type="button" aria-pressed={item.bought} onClick={() => set({ bought: !item.bought })}>
              {texts.bought}
            </button>
            <button type="button" aria-pressed={item.fastener} onClick={() => set({ fastener: !item.fastener })}>
              {texts.fastener}
            </button>
          </div>
        </>
      )}
      <Fact name={texts.colour}>
        <input
          type="color"
          aria-label={texts.colourInDrawings}
          key={colour ?? component.colour}
          defaultValue={colour ?? component.colour}
          onBlur={(event) =>
            event.target.value !== (colour ?? component.colour) && edit.mutate({ kind: "set_colour", component: component.path, colour: event.target.value })
          }
        />{" "}
        {colour ?? component.colour}
        {colour && (
          <Button type="link" size="small" onClick={() => edit.mutate({ kind: "set_colour", component: component.path, colour: null })}>
            {texts.asTheModelHasIt}
          </Button>
        )}
      </Fact>
    </>
  );
}

import { Button, Checkbox, Input, Segmented } from "antd";
import { useState } from "react";
import type { Edit, Job, Sheet, Trade, Schemas } from "../api/client";
import { readLength } from "../api/queries";
import { useFieldPoster, type Field } from "../api/solids";
import { ComponentsPicker } from "../sheets/ComponentsPicker";
import { mm, paperOf } from "../sheets/geometry";
import { TypedField } from "../ticket/TypedField";
import { Covers } from "./Covers";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";

interface Props {
  job: Job;
  sheet: Sheet;
  field: Field;
  trade: Trade;
  edit: (edit: Edit) => void;
  onOpen: () => void;
}

const megabytes = (bytes: number) => (bytes < 1e5 ? `${(bytes / 1e3).toFixed(1)} kB` : `${(bytes / 1e6).toFixed(2)} MB`);
const length = async (text: string) => mm((await readLength(text)).mm);

/** The facts of a 3D field: where it lies, what goes in, how a reader opens it. */
export function FieldTicket({ job, sheet, field, trade, edit, onOpen }: Props) {
  const { data } = useFieldPoster(job, sheet, field);
  const [choosing, setChoosing] = useState(false);
  const { choices, opening } = field;
  const change = (fields: Schemas["FieldPatch"]) => edit({ kind: "change_field", sheet: sheet.id, field: field.id, fields });
  const choose = (fields: Partial<Field["choices"]>) => change({ choices: { ...choices, ...fields } });
  const open = (fields: Partial<Field["opening"]>) => change({ opening: { ...opening, ...fields } });
  const paper = paperOf(sheet, trade);
  const facts = data?.facts;
  // each side by itself: two that are typed quickly both count
  const sized = (side: "x" | "y" | "width" | "height", value: number, label: string) => (
    <TypedField label={label} value={mm(value, 2)} read={length} onChange={(text) => change({ [side]: Number(text) })} />
  );
  const first = field.views.find((view) => view.id === field.default) ?? field.views[0];
  return (
    <Ticket title={field.name} under={`3D field on ${sheet.name}`}>
      <Fact name="Name">
        <TypedField label="Field name" value={field.name} read={async (t) => t.trim() || field.name} onChange={(name) => change({ name })} />
      </Fact>
      <Fact name="Position">
        <span className="pair">
          {sized("x", field.place[0], "Position, x")} {sized("y", field.place[1], "Position, y")}
        </span>
      </Fact>
      <Fact name="Size">
        <span className="pair">
          {sized("width", field.size[0], "Field width")} {sized("height", field.size[1], "Field height")}
        </span>
      </Fact>
      <Checkbox checked={field.frame} onChange={(event) => change({ frame: event.target.checked })}>
        Frame line
      </Checkbox>
      <Button type="link" size="small" onClick={() => change({ place: [0, 0], size: [paper.width, paper.height], frame: false })}>
        Fill the sheet
      </Button>
      <Section title="Prepared views">
        <p className="flush">
          {field.views.length} views, opens with {first?.name}
        </p>
        <Button onClick={onOpen}>
          Edit prepared views <kbd>V</kbd>
        </Button>
      </Section>
      <Section title="Contents">
        <Segmented<Field["choices"]["quality"]> size="small" block aria-label="Quality" value={choices.quality} onChange={(quality) => choose({ quality })} options={[{ value: "draft", label: "Draft" }, { value: "normal", label: "Normal" }, { value: "fine", label: "Fine" }]} />
        <p className="soft small flush" aria-label="What it takes">
          {facts ? `${facts.parts} parts, ${facts.triangles} triangles, ${facts.distinct} kept, ${megabytes(facts.bytes)}${facts.chord ? `, within ${Number(facts.chord.toFixed(3))} mm` : ""}` : "Counting triangles …"}
        </p>
        <Fact name="Tree by">
          <select aria-label="Tree by" value={choices.grouping} onChange={(event) => choose({ grouping: event.target.value as typeof choices.grouping, left_out: [] })}>
            <option value="assembly">assembly</option>
            <option value="class">made, bought, fasteners</option>
            <option value="material">material</option>
            <option value="colour">colour</option>
          </select>
        </Fact>
        {facts && facts.classes.length > 1 && (
          <div className="chips" role="group" aria-label="Classes that go in">
            {facts.classes.map((name) => {
              const out = choices.left_out.includes(name);
              return (
                <button key={name} type="button" aria-pressed={!out} onClick={() => choose({ left_out: out ? choices.left_out.filter((own) => own !== name) : [...choices.left_out, name] })}>
                  {name}
                </button>
              );
            })}
          </div>
        )}
        <Groups choices={choices} choose={choose} />
        <Fact name="Named by">
          <Segmented<Field["choices"]["names"]> size="small" aria-label="Named by" value={choices.names} onChange={(names) => choose({ names })} options={[{ value: "names", label: "names" }, { value: "items", label: "item numbers" }]} />
        </Fact>
        <Button type="link" size="small" className="flush" onClick={() => setChoosing(true)}>
          {choices.hidden.length ? `${choices.hidden.length} components stay out …` : "Leave components out …"}
        </Button>
        <Covers field={field} choose={choose} />
      </Section>
      <Section title="In a reader">
        <Fact name="Opens">
          <Segmented<Field["opening"]["start"]> size="small" aria-label="Opens" value={opening.start} onChange={(start) => open({ start })} options={[{ value: "click", label: "on a click" }, { value: "page", label: "with its page" }]} />
        </Fact>
        <Fact name="Measures in">
          <Segmented<Field["opening"]["unit"]> size="small" aria-label="Measures in" value={opening.unit} onChange={(unit) => open({ unit })} options={[{ value: "mm", label: "mm" }, { value: "in", label: "inch" }]} />
        </Fact>
        <div className="ticks">
          <Checkbox checked={opening.leave} onChange={(event) => open({ leave: event.target.checked })}>
            Goes when its page is left
          </Checkbox>
          <Checkbox checked={opening.tools} onChange={(event) => open({ tools: event.target.checked })}>
            With the reader’s tools
          </Checkbox>
          <Checkbox checked={opening.tree} onChange={(event) => open({ tree: event.target.checked })}>
            With the tree of parts
          </Checkbox>
        </div>
        <Fact name="Poster">
          <TypedField label="Poster resolution" value={String(field.poster_dpi)} suffix="dpi" read={async (t) => String(Number(t) >= 36 && Number(t) <= 1200 ? Math.round(Number(t)) : Promise.reject(new Error("From 36 to 1200.")))} onChange={(dpi) => change({ poster_dpi: Number(dpi) })} />
        </Fact>
      </Section>
      {data?.work?.state === "failed" && (
        <Note tone="error" title="The 3D model cannot be made.">
          {data.work.error}
        </Note>
      )}
      <Button type="link" danger className="take-out" onClick={() => edit({ kind: "remove_field", sheet: sheet.id, field: field.id })}>
        Remove this field
      </Button>
      <ComponentsPicker job={job} view={{ source: field.source, name: field.name, hidden: choices.hidden }} title={`Components in ${field.name}`} open={choosing} close={() => setChoosing(false)} onHidden={(hidden) => choose({ hidden })} />
    </Ticket>
  );
}

/** Classes of one's own, by patterns of names: typed, and taken by Enter. */
function Groups({ choices, choose }: { choices: Field["choices"]; choose: (fields: Partial<Field["choices"]>) => void }) {
  const [text, setText] = useState("");
  const add = () => {
    const patterns = text.split(",").map((one) => one.trim()).filter(Boolean);
    const name = patterns[0]?.replace(/[*?[\]]/g, "").trim() || `Group ${choices.groups.length + 1}`;
    if (!patterns.length || choices.groups.some((own) => own.name === name)) return;
    choose({ groups: [...choices.groups, { name: name.slice(0, 60), patterns }] });
    setText("");
  };
  return (
    <>
      {choices.groups.map((group, index) => (
        <Fact key={group.name} name={group.name}>
          <TypedField label={`Parts of ${group.name}`} value={group.patterns.join(", ")} read={async (t) => t} onChange={(typed) => choose({ groups: choices.groups.flatMap((own, k) => patterned(own, k === index ? typed : null)) })} />
        </Fact>
      ))}
      <Input size="small" aria-label="A group of parts by name" placeholder="A group by name, such as *bearing*" value={text} onChange={(event) => setText(event.target.value)} onPressEnter={add} onBlur={add} />
    </>
  );
}

const patterned = (group: Field["choices"]["groups"][number], text: string | null) => {
  if (text === null) return [group];
  const patterns = text.split(",").map((one) => one.trim()).filter(Boolean);
  return patterns.length ? [{ ...group, patterns }] : [];
};

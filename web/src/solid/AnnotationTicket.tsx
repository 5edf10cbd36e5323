import { Button, Checkbox, Input, Segmented } from "antd";
import { useState } from "react";
import type { Edit, Job, Sheet, Schemas } from "../api/client";
import { readInUnit } from "../api/queries";
import { useAnnotationPoster, type Field } from "../api/solids";
import { ComponentsPicker } from "../components/ComponentsPicker";
import { mm, paperOf } from "../paper/geometry";
import { TypedField } from "../ticket/TypedField";
import { AreaActs } from "./AreaActs";
import { Covers } from "./Covers";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import * as texts from "./texts";

interface Props {
  job: Job;
  sheet: Sheet;
  field: Field;
  edit: (edit: Edit) => void;
  onOpen: () => void;
}

const megabytes = (bytes: number) => (bytes < 1e5 ? `${(bytes / 1e3).toFixed(1)} kB` : `${(bytes / 1e6).toFixed(2)} MB`);
const length = async (text: string) => mm((await readInUnit(text)).mm);

async function readDpi(text: string): Promise<string> {
  const dpi = Math.round(Number(text));
  if (!(dpi >= 36 && dpi <= 1200)) throw new Error(texts.from36To1200);
  return String(dpi);
}

/** The facts of a 3D annotation: where it lies, what goes in, how a reader opens it. */
export function AnnotationTicket({ job, sheet, field, edit, onOpen }: Props) {
  const { data } = useAnnotationPoster(job, sheet, field);
  const [choosing, setChoosing] = useState(false);
  const { choices, opening } = field;
  const change = (fields: Schemas["Annotation3dPatch"]) => edit({ kind: "change_annotation_3d", sheet: sheet.id, annotation: field.id, fields });
  const choose = (fields: Partial<Field["choices"]>) => change({ choices: { ...choices, ...fields } });
  const open = (fields: Partial<Field["opening"]>) => change({ opening: { ...opening, ...fields } });
  const paper = paperOf(job, sheet);
  const facts = data?.facts;
  // each side by itself: two that are typed quickly both count
  const sized = (side: "x" | "y" | "width" | "height", value: number, label: string) => (
    <TypedField length label={label} value={mm(value, 2)} read={length} onChange={(text) => change({ [side]: Number(text) })} />
  );
  const first = field.views.find((view) => view.id === field.default) ?? field.views[0];
  return (
    <Ticket title={field.name} under={texts.n3dFieldOn(sheet.name)}>
      <Fact name={texts.name}>
        <TypedField label={texts.fieldName} value={field.name} read={async (t) => t.trim() || field.name} onChange={(name) => change({ name })} />
      </Fact>
      <Fact name={texts.position}>
        <span className="pair">
          {sized("x", field.place[0], "Position, x")} {sized("y", field.place[1], "Position, y")}
        </span>
      </Fact>
      <Fact name={texts.size}>
        <span className="pair">
          {sized("width", field.size[0], texts.fieldWidth)} {sized("height", field.size[1], texts.fieldHeight)}
        </span>
      </Fact>
      <Checkbox checked={field.frame} onChange={(event) => change({ frame: event.target.checked })}>
        {texts.frameLine}
      </Checkbox>
      <AreaActs onFill={() => change({ place: [0, 0], size: [paper.width, paper.height], frame: false })} />
      <Section title={texts.preparedViews}>
        <p className="flush">
          {field.views.length} {texts.viewsOpensWith} {first?.name}
        </p>
        <Button onClick={onOpen}>
          {texts.editPreparedViews} <kbd>V</kbd>
        </Button>
      </Section>
      <Section title={texts.contents}>
        <Segmented<Field["choices"]["quality"]>
          size="small"
          block
          aria-label={texts.quality}
          value={choices.quality}
          onChange={(quality) => choose({ quality })}
          options={[
            { value: "draft", label: texts.draft },
            { value: "normal", label: texts.normal },
            { value: "fine", label: texts.fine },
          ]}
        />
        <p className="soft small flush" aria-label={texts.whatItTakes}>
          {facts
            ? texts.partsTrianglesKeptMm(
                facts.parts,
                facts.triangles,
                facts.distinct,
                megabytes(facts.bytes),
                facts.chord ? `, within ${Number(facts.chord.toFixed(3))} mm` : "",
              )
            : texts.countingTriangles}
        </p>
        <Fact name={texts.treeBy}>
          <select
            aria-label={texts.treeBy}
            value={choices.grouping}
            onChange={(event) => choose({ grouping: event.target.value as typeof choices.grouping, left_out: [] })}
          >
            <option value="assembly">{texts.assembly}</option>
            <option value="class">{texts.madeBoughtFasteners}</option>
            <option value="material">{texts.material}</option>
            <option value="colour">{texts.colour}</option>
          </select>
        </Fact>
        {facts && facts.classes.length > 1 && (
          <div className="chips" role="group" aria-label={texts.classesThatGoIn}>
            {facts.classes.map((name) => {
              const out = choices.left_out.includes(name);
              return (
                <button
                  key={name}
                  type="button"
                  aria-pressed={!out}
                  onClick={() => choose({ left_out: out ? choices.left_out.filter((own) => own !== name) : [...choices.left_out, name] })}
                >
                  {name}
                </button>
              );
            })}
          </div>
        )}
        <Groups choices={choices} choose={choose} />
        <Fact name={texts.namedBy}>
          <Segmented<Field["choices"]["names"]>
            size="small"
            aria-label={texts.namedBy}
            value={choices.names}
            onChange={(names) => choose({ names })}
            options={[
              { value: "names", label: texts.names },
              { value: "items", label: texts.itemNumbers },
            ]}
          />
        </Fact>
        <Button type="link" size="small" className="flush" onClick={() => setChoosing(true)}>
          {choices.hidden.length ? texts.componentsStayOut(choices.hidden.length) : texts.leaveComponentsOut}
        </Button>
        <Covers field={field} choose={choose} />
      </Section>
      <Section title={texts.inAReader}>
        <Fact name={texts.opens}>
          <Segmented<Field["opening"]["start"]>
            size="small"
            aria-label={texts.opens}
            value={opening.start}
            onChange={(start) => open({ start })}
            options={[
              { value: "click", label: texts.onAClick },
              { value: "page", label: texts.withItsPage },
            ]}
          />
        </Fact>
        <Fact name={texts.measuresIn}>
          <Segmented<Field["opening"]["unit"]>
            size="small"
            aria-label={texts.measuresIn}
            value={opening.unit}
            onChange={(unit) => open({ unit })}
            options={[
              { value: "mm", label: texts.mm },
              { value: "in", label: texts.inch },
            ]}
          />
        </Fact>
        <div className="ticks">
          <Checkbox checked={opening.leave} onChange={(event) => open({ leave: event.target.checked })}>
            {texts.goesWhenItsPageIs}
          </Checkbox>
          <Checkbox checked={opening.tools} onChange={(event) => open({ tools: event.target.checked })}>
            {texts.withTheReaderSTools}
          </Checkbox>
          <Checkbox checked={opening.tree} onChange={(event) => open({ tree: event.target.checked })}>
            {texts.withTheTreeOfParts}
          </Checkbox>
        </div>
        <Fact name={texts.poster}>
          <TypedField
            label={texts.posterResolution}
            value={String(field.poster_dpi)}
            suffix={texts.dpi}
            read={readDpi}
            onChange={(dpi) => change({ poster_dpi: Number(dpi) })}
          />
        </Fact>
      </Section>
      {data?.work?.state === "failed" && (
        <Note tone="error" title={texts.the3dModelCannotBe}>
          {data.work.error}
        </Note>
      )}
      <Button type="link" danger className="take-out" onClick={() => edit({ kind: "remove_annotation_3d", sheet: sheet.id, annotation: field.id })}>
        {texts.removeThisField}
      </Button>
      <ComponentsPicker
        job={job}
        view={{ source: field.source, name: field.name, hidden: choices.hidden }}
        title={texts.componentsIn(field.name)}
        open={choosing}
        close={() => setChoosing(false)}
        onHidden={(hidden) => choose({ hidden })}
      />
    </Ticket>
  );
}

/** Classes of one's own, by patterns of names: typed, and taken by Enter. */
function Groups({ choices, choose }: { choices: Field["choices"]; choose: (fields: Partial<Field["choices"]>) => void }) {
  const [text, setText] = useState("");
  const add = () => {
    const patterns = text
      .split(",")
      .map((one) => one.trim())
      .filter(Boolean);
    const name = patterns[0]?.replace(/[*?[\]]/g, "").trim() || texts.group(choices.groups.length + 1);
    if (!patterns.length || choices.groups.some((own) => own.name === name)) return;
    choose({ groups: [...choices.groups, { name: name.slice(0, 60), patterns }] });
    setText("");
  };
  return (
    <>
      {choices.groups.map((group, index) => (
        <Fact key={group.name} name={group.name}>
          <TypedField
            label={texts.partsOf(group.name)}
            value={group.patterns.join(", ")}
            read={async (t) => t}
            onChange={(typed) => choose({ groups: choices.groups.flatMap((own, k) => patterned(own, k === index ? typed : null)) })}
          />
        </Fact>
      ))}
      <Input
        size="small"
        aria-label={texts.aGroupOfPartsBy}
        placeholder={texts.aGroupByNameSuch}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onPressEnter={add}
        onBlur={add}
      />
    </>
  );
}

const patterned = (group: Field["choices"]["groups"][number], text: string | null) => {
  if (text === null) return [group];
  const patterns = text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);
  return patterns.length ? [{ ...group, patterns }] : [];
};

import { Button, Segmented } from "antd";
import { useEffect, useRef } from "react";
import { useDrawOn, type Decoration } from "../api/cutting";
import type { Edit, Job, Schemas, Sheet } from "../api/client";
import { newId } from "../common/ids";
import { mm } from "../paper/geometry";
import { Fact, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { factor, length, number, words } from "../views/typing";
import * as texts from "./texts";

interface Props {
  job: Job;
  sheet: Sheet;
  /** The part of the list that is drawn on, or nothing for the plate itself. */
  part: Schemas["CutPart"] | null;
  /** Where something new is put, mm. */
  middle: [number, number];
  selected: string | null;
  edit: (edit: Edit) => void;
  onSelect: (id: string | null) => void;
}

/** What of a job's drawings can be drawn: each whole, and what each drawing view shows. */
function drawings(job: Job) {
  const sources = job.document.sources.filter((own) => own.drawing);
  const views = job.document.sheets.flatMap((sheet) => sheet.views.map((view) => ({ sheet, view }))).filter(({ view }) => view.content.kind === "drawing");
  return [
    ...sources.map((own) => ({ source: own.id, view: "", name: own.name })),
    ...views.map(({ sheet, view }) => ({ source: view.source, view: view.id, name: texts.viewOn(view.name, sheet.name) })),
  ];
}

interface OneProps extends Omit<Props, "middle"> {
  own: Decoration;
}

function Place({ own, change }: { own: Decoration; change: (fields: Schemas["DecorationPatch"]) => void }) {
  return (
    <>
      <Fact name={texts.middle}>
        <span className="pair">
          <TypedField label={`${texts.middle} X`} value={mm(own.x)} length read={length} onChange={(x) => change({ x: Number(x) })} />
          <TypedField label={`${texts.middle} Y`} value={mm(own.y)} length read={length} suffix={texts.mm} onChange={(y) => change({ y: Number(y) })} />
        </span>
      </Fact>
      <Fact name={texts.rotation}>
        <TypedField label={texts.turnOfIt} value={mm(own.turn)} read={number} suffix={texts.degrees} onChange={(turn) => change({ turn: Number(turn) })} />
      </Fact>
    </>
  );
}

/** One decoration: what it says or shows, what is done along it, and where it stands. */
function One({ job, sheet, part, own, selected, edit, onSelect }: OneProps) {
  const here = useRef<HTMLLIElement>(null);
  const open = selected === own.id;
  useEffect(() => {
    if (open) void here.current?.scrollIntoView({ block: "nearest" });
  }, [open]);
  const where = { sheet: sheet.id, part: part?.id ?? "", decoration: own.id };
  const change = (fields: Schemas["DecorationPatch"]) => edit({ kind: "change_decoration", ...where, fields });
  const { content } = own;
  const source = content.kind === "drawing" ? job.document.sources.find((other) => other.id === content.source)?.name : undefined;
  return (
    <li ref={here} className={open ? "drawn-row open" : "drawn-row"}>
      <button type="button" className="as-file" aria-expanded={open} onClick={() => onSelect(open ? null : own.id)}>
        {content.kind === "lettering" ? `“${content.text}”` : source}
      </button>
      <span className="soft">{own.operation === "engrave" ? texts.engraved : texts.scored}</span>
      {open && (
        <div className="drawn-facts">
          {content.kind === "lettering" ? (
            <>
              <Fact name={texts.text}>
                <TypedField label={texts.text} value={content.text} read={words} onChange={(text) => change({ content: { ...content, text } })} />
              </Fact>
              <Fact name={texts.capitals}>
                <TypedField
                  label={texts.capitals}
                  value={mm(content.height)}
                  length
                  read={length}
                  suffix={texts.mm}
                  onChange={(height) => change({ content: { ...content, height: Number(height) } })}
                />
              </Fact>
              <Fact name={texts.letters}>
                <Segmented<"outlines" | "single strokes">
                  size="small"
                  aria-label={texts.letters}
                  value={content.letters}
                  onChange={(letters) => change({ content: { ...content, letters } })}
                  options={[
                    { value: "outlines", label: texts.filled },
                    { value: "single strokes", label: texts.singleStrokes },
                  ]}
                />
              </Fact>
            </>
          ) : (
            <Fact name={texts.size}>
              <TypedField
                label={texts.size}
                value={String(content.scale)}
                read={factor}
                suffix={texts.timesAsLarge}
                onChange={(scale) => change({ content: { ...content, scale: Number(scale) } })}
              />
            </Fact>
          )}
          <Fact name={texts.operation}>
            <Segmented<"engrave" | "score">
              size="small"
              aria-label={texts.operation}
              value={own.operation}
              onChange={(operation) => change({ operation })}
              options={[
                { value: "engrave", label: texts.engrave },
                { value: "score", label: texts.score },
              ]}
            />
          </Fact>
          <Place own={own} change={change} />
          <Button
            type="link"
            danger
            className="take-out"
            onClick={() => {
              onSelect(null);
              edit({ kind: "remove_decoration", ...where });
            }}
          >
            {texts.takeItOff}
          </Button>
        </div>
      )}
    </li>
  );
}

/** What is drawn on a part, on each of them, or on the plate itself. */
export function Decorations({ job, sheet, part, middle, selected, edit, onSelect }: Props) {
  const draw = useDrawOn(job.id, sheet.id);
  const rows = (part ? part.decorations : sheet.cutting?.decorations) ?? [];
  const letter = () => {
    const id = newId();
    const text = part?.name ?? job.document.name;
    edit({
      kind: "add_decoration",
      sheet: sheet.id,
      part: part?.id ?? "",
      decoration: { id, content: { kind: "lettering", text, height: 5, letters: "outlines" }, operation: "engrave", x: middle[0], y: middle[1], turn: 0 },
    });
    onSelect(id);
  };
  const choices = drawings(job);
  return (
    <Section title={part ? texts.drawnOnEach : texts.drawnOnThePlate}>
      <ul className="drawn-rows">
        {rows.map((own) => (
          <One key={own.id} {...{ job, sheet, part, own, selected, edit, onSelect }} />
        ))}
      </ul>
      <p className="layer-acts">
        <button type="button" onClick={letter}>
          {texts.addLettering}
        </button>
        {choices.length > 0 && (
          <select
            aria-label={texts.addADrawing}
            value=""
            onChange={(event) => {
              const choice = choices[Number(event.target.value)];
              if (choice) draw.mutate({ source: choice.source, view: choice.view, part: part?.id ?? "" }, { onSuccess: (made) => onSelect(made.decoration) });
            }}
          >
            <option value="">{texts.addADrawing}</option>
            {choices.map((own, index) => (
              <option key={`${own.source}-${own.view}`} value={index}>
                {own.name}
              </option>
            ))}
          </select>
        )}
      </p>
    </Section>
  );
}

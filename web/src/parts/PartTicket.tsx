import { App, Checkbox } from "antd";
import { Suspense, useState } from "react";
import { Link } from "react-router";
import type { Job } from "../api/client";
import { useSheetParts } from "../api/metal";
import { KINDS, type OwnField, type PartRow } from "../api/parts";
import { useEdit } from "../api/queries";
import { useMakeSheets, useTemplates } from "../api/release";
import { part as later } from "../common/part";
import { Fact, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

const UnfoldDialog = later(async () => (await import("../metal/UnfoldDialog")).UnfoldDialog);

type Property = "name" | "description" | "number" | "revision" | "material" | "finish" | "thickness";

const plain = async (text: string) => text.trim();

/** The value that all rows have, or null where they differ. */
const shared = (rows: readonly PartRow[], of: (row: PartRow) => string) => {
  const first = rows[0] ? of(rows[0]) : "";
  return rows.every((row) => of(row) === first) ? first : null;
};

/** What is said of the rows that are selected, to be changed for all of them at once. */
export function PartTicket({ job, rows, all }: { job: Job; rows: readonly PartRow[]; all: readonly PartRow[] }) {
  const edit = useEdit(job.id);
  const own = job.document.own_fields;
  const set = (name: string, value: string) => edit.mutate({ kind: "set_parts", parts: Object.fromEntries(rows.map((row) => [row.key, { [name]: value }])) });
  const typed = (label: string, name: Property, of: (row: PartRow) => string, suffix?: string) => {
    const value = shared(rows, of);
    return (
      <Fact name={label} key={name}>
        <TypedField
          label={texts.ofSelection(label)}
          value={value ?? ""}
          read={plain}
          onChange={(text) => set(name, text)}
          suffix={value === null ? texts.several : suffix}
        />
      </Fact>
    );
  };
  const said = rows.every((row) => job.document.parts[row.key]?.kind);
  const kind = said ? shared(rows, (row) => row.kind) : null;
  const first = rows[0];
  const hand = first && all.find((row) => row.key === first.opposite || row.opposite === first.key);
  return (
    <>
      {rows.length === 1 && typed(texts.name, "name", (row) => row.name)}
      {typed(texts.description, "description", (row) => row.description)}
      {typed(texts.number, "number", (row) => row.number)}
      {typed(texts.revision, "revision", (row) => row.revision)}
      <Fact name={texts.kind}>
        <select aria-label={texts.ofSelection(texts.kind)} value={kind ?? ""} onChange={(event) => set("kind", event.target.value)}>
          <option value="">
            {texts.asTheModelHasIt}
            {!said && first ? `: ${shared(rows, (row) => row.kind) ?? texts.several}` : ""}
          </option>
          {KINDS.filter((own) => own !== "assembly").map((own) => (
            <option key={own}>{own}</option>
          ))}
        </select>
      </Fact>
      {typed(texts.material, "material", (row) => row.material)}
      {typed(texts.finish, "finish", (row) => row.finish)}
      {typed(texts.thickness, "thickness", (row) => (row.thickness ? String(Number(row.thickness.toFixed(4))) : ""), texts.mm)}
      {own.map((field) => (
        <OwnValue key={field.name} field={field} rows={rows} set={(value) => set(field.name, value)} />
      ))}
      {rows.length === 1 && first && hand && <Fact name={texts.oppositeHand}>{hand.mark || hand.name}</Fact>}
      {rows.length === 1 && first && <Acts job={job} row={first} />}
      <Sheets job={job} rows={rows} />
      {rows.length === 1 && first && (
        <Section title={texts.inSources}>
          <ul className="part-places">
            {[{ source: first.source, component: first.component }, ...first.elsewhere].map((place) => (
              <li key={place.source + place.component}>
                {job.document.sources.find((source) => source.id === place.source)?.name}
                <small className="soft">{place.component}</small>
              </li>
            ))}
          </ul>
        </Section>
      )}
    </>
  );
}

/** What is done with one part: looked at where it is in its model, and unfolded where it is sheet metal. */
function Acts({ job, row }: { job: Job; row: PartRow }) {
  const { data } = useSheetParts(row.source, true);
  const [open, setOpen] = useState(false);
  const part = data?.parts?.find((own) => own.component === row.component || own.components.includes(row.component));
  return (
    <span className="layer-acts">
      <Link to={`/jobs/${job.id}/source?source=${encodeURIComponent(row.source)}&component=${encodeURIComponent(row.component)}`}>{texts.showInModel}</Link>
      {part && (part.facts || part.place) && (
        <button type="button" onClick={() => setOpen(true)}>
          {texts.unfold}
        </button>
      )}
      <Suspense>{open && part && <UnfoldDialog job={job} source={row.source} part={part} close={() => setOpen(false)} />}</Suspense>
    </span>
  );
}

/** A sheet for each of the rows, after a template. */
function Sheets({ job, rows }: { job: Job; rows: readonly PartRow[] }) {
  const { data: templates } = useTemplates();
  const [template, setTemplate] = useState("part");
  const [handsOnce, setHandsOnce] = useState(false);
  const make = useMakeSheets(job.id);
  const { message } = App.useApp();
  const keys = rows.map((row) => row.key);
  const there = job.document.sheets.filter((sheet) => sheet.made_for && rows.some((row) => row.key === sheet.made_for?.part));
  const go = () =>
    make.mutate(
      { template, parts: keys, hands_once: handsOnce },
      {
        onSuccess: ({ new: made, anew, left }) =>
          void message.info(
            [texts.sheetsMade(made.length, anew.length), ...left.slice(0, 4), ...(left.length > 4 ? [texts.andMore(left.length - 4)] : [])].join(" "),
            6,
          ),
      },
    );
  return (
    <Section title={texts.sheets}>
      <Fact name={texts.template}>
        <select aria-label={texts.template} value={template} onChange={(event) => setTemplate(event.target.value)}>
          {templates?.map((own) => (
            <option key={own.id} value={own.id}>
              {own.name}
            </option>
          ))}
        </select>
      </Fact>
      {rows.some((row) => row.opposite) && (
        <Checkbox checked={handsOnce} onChange={({ target }) => setHandsOnce(target.checked)}>
          {texts.handsOnce}
        </Checkbox>
      )}
      <span className="layer-acts">
        <button type="button" disabled={make.isPending} onClick={go}>
          {texts.makeSheets(rows.length)}
        </button>
        {there.slice(0, 3).map((sheet) => (
          <Link key={sheet.id} to={`/jobs/${job.id}/sheets/${sheet.id}`}>
            {sheet.name}
          </Link>
        ))}
      </span>
    </Section>
  );
}

function OwnValue({ field, rows, set }: { field: OwnField; rows: readonly PartRow[]; set: (value: string) => void }) {
  const value = shared(rows, (row) => row.fields[field.name] ?? "");
  const choices = field.kind === "yes/no" ? [texts.yes, texts.no] : field.kind === "choice" ? field.choices : null;
  return (
    <Fact name={field.name}>
      {choices ? (
        <select aria-label={texts.ofSelection(field.name)} value={value ?? "\u0000"} onChange={(event) => set(event.target.value)}>
          {value === null && <option value={"\u0000"}>{texts.several}</option>}
          <option value=""></option>
          {choices.map((own) => (
            <option key={own}>{own}</option>
          ))}
        </select>
      ) : (
        <TypedField label={texts.ofSelection(field.name)} value={value ?? ""} read={plain} onChange={set} suffix={value === null ? texts.several : undefined} />
      )}
    </Fact>
  );
}

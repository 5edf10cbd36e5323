import type { Edit, Job, Sheet, Schemas } from "../api/client";
import { detailOf } from "../api/content";
import { Fact, Section } from "../ticket/Ticket";
import * as texts from "./texts";
import * as paperTexts from "../paper/texts";

const COLUMNS = { mark: "mark", quantity: "quantity", name: "name", number: "part number", material: "material", mass: "mass" } as const;
type Column = "item" | keyof typeof COLUMNS;
const CHOSEN = Object.keys(COLUMNS) as (keyof typeof COLUMNS)[];
const FURNITURE = ["title block", "centring marks", "grid references", "print-control bar"] as const;

/** What hangs on a frame: without one there is none of it, and centring marks are the ISO frame's alone. */
const carries = (frame: Sheet["frame"], part: (typeof FURNITURE)[number]) =>
  part === "print-control bar" || (part === "centring marks" ? frame === "iso" : frame !== "none");

/** The columns with one more or less, in the list's own order; the item's number always stays first, for the balloons. */
function columnsWith(columns: readonly Column[], column: keyof typeof COLUMNS): Column[] {
  const rest = CHOSEN.filter((c) => (c === column ? !columns.includes(c) : columns.includes(c)));
  return ["item", ...rest];
}

/** What the sheet carries beside its views, each part on or off; and the clean sheet for the cutter. */
export function Furniture({ job, sheet, edit }: { job: Job; sheet: Sheet; edit: (edit: Edit) => void }) {
  const set = (fields: Schemas["SheetPatch"]) => edit({ kind: "change_sheet", sheet: sheet.id, fields });
  const toggle = (part: (typeof FURNITURE)[number]) =>
    set({ furniture: sheet.furniture.includes(part) ? sheet.furniture.filter((f) => f !== part) : [...sheet.furniture, part] });
  const listed = sheet.parts_list;
  const first = sheet.views.find((v) => !detailOf(v));
  return (
    <Section title={texts.annotationsOnTheSheet}>
      <div className="chips">
        <button type="button" aria-pressed={sheet.clean} onClick={() => set({ clean: !sheet.clean })}>
          {texts.geometryOnly}
        </button>
        {!sheet.clean &&
          FURNITURE.filter((part) => carries(sheet.frame, part)).map((part) => (
            <button key={part} type="button" aria-pressed={sheet.furniture.includes(part)} onClick={() => toggle(part)}>
              {part}
            </button>
          ))}
        {!sheet.clean && first && (
          <button
            type="button"
            aria-pressed={!!listed}
            onClick={() =>
              set({
                parts_list: listed
                  ? null
                  : { view: first.id, place: null, columns: ["item", ...CHOSEN.filter((c) => c !== "mark")], balloons: true, refer: "item", moved: {} },
              })
            }
          >
            {texts.partsList}
          </button>
        )}
        {!sheet.clean && listed && (
          <button type="button" aria-pressed={listed.balloons} onClick={() => set({ parts_list: { ...listed, balloons: !listed.balloons } })}>
            {texts.balloons}
          </button>
        )}
        {!sheet.clean && (
          <button
            type="button"
            aria-pressed={!!sheet.drawings_table}
            onClick={() => set({ drawings_table: sheet.drawings_table ? null : { pack: job.document.packs[0]?.id ?? "", place: null } })}
          >
            {texts.tableOfDrawings}
          </button>
        )}
        {!sheet.clean &&
          job.document.cut_lists.map((list) => {
            const on = sheet.plates_table?.cut_list === list.id;
            return (
              <button key={list.id} type="button" aria-pressed={on} onClick={() => set({ plates_table: on ? null : { cut_list: list.id, place: null } })}>
                {texts.platesOf(list.name)}
              </button>
            );
          })}
      </div>
      {sheet.drawings_table && !sheet.clean && (
        <Fact name={texts.drawingsOf}>
          <select
            aria-label={texts.drawingsOf}
            value={sheet.drawings_table.pack}
            onChange={(event) => set({ drawings_table: { pack: event.target.value, place: sheet.drawings_table?.place ?? null } })}
          >
            <option value="">{texts.wholeJob}</option>
            {job.document.packs.map((pack) => (
              <option key={pack.id} value={pack.id}>
                {pack.name}
              </option>
            ))}
          </select>
        </Fact>
      )}
      {listed && !sheet.clean && (
        <>
          {listed.balloons && (
            <Fact name={texts.balloonsShow}>
              <select
                aria-label={texts.balloonsShow}
                value={listed.refer}
                onChange={(event) => {
                  const refer = event.target.value as "item" | "mark";
                  const columns = refer === "mark" && !listed.columns.includes("mark") ? columnsWith(listed.columns, "mark") : listed.columns;
                  set({ parts_list: { ...listed, refer, columns } });
                }}
              >
                <option value="item">{texts.itemNumbers}</option>
                <option value="mark">{texts.marksOfParts}</option>
              </select>
            </Fact>
          )}
          <Fact name={texts.listOf}>
            <select
              aria-label={texts.viewOfThePartsList}
              value={listed.view}
              onChange={(event) => set({ parts_list: { ...listed, view: event.target.value, moved: {} } })}
            >
              {sheet.views.map((v) => (
                <option key={v.id} value={v.id}>
                  {paperTexts.the} {v.name} {texts.view2}
                </option>
              ))}
            </select>
          </Fact>
          <p className="soft">{texts.itsColumns}</p>
          <div className="chips">
            {CHOSEN.map((column) => (
              <button
                key={column}
                type="button"
                aria-pressed={listed.columns.includes(column)}
                onClick={() => set({ parts_list: { ...listed, columns: columnsWith(listed.columns, column) } })}
              >
                {COLUMNS[column]}
              </button>
            ))}
          </div>
        </>
      )}
    </Section>
  );
}

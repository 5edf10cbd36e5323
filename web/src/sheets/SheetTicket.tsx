import { Button, Segmented } from "antd";
import { Link } from "react-router";
import { sizeInUnit } from "../common/unit";
import type { Edit, Job, Sheet, Writing, Schemas } from "../api/client";
import { usePenFacts } from "../api/pens";
import { readScale, usePicture } from "../api/queries";
import { RecipeChoice } from "../recipes/RecipeChoice";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { AddView } from "./AddView";
import { Artwork } from "../views/Artwork";
import { TypedField } from "../ticket/TypedField";
import { FitSheet } from "./FitSheet";
import { FormatFacts } from "./FormatFacts";
import { Furniture } from "./Furniture";
import { isEmpty, boxOf, mm, paperOf } from "../paper/geometry";
import { Notes } from "./Notes";
import { SaveTemplate } from "./SaveTemplate";
import { Notices } from "../views/Notices";
import * as texts from "./texts";
import * as paperTexts from "../paper/texts";
import * as viewsTexts from "../views/texts";
import * as stripTexts from "../strip/texts";

interface Props {
  job: Job;
  sheet: Sheet;
  writing: Writing | undefined;
  edit: (edit: Edit) => void;
  pasting: { paste: (() => void) | null; what: string };
  onView: (id: string) => void;
  onField: (id: string) => void;
}

function ViewRow({ job, sheet, index, onView }: { job: Job; sheet: Sheet; index: number; onView: (id: string) => void }) {
  const view = sheet.views[index];
  const { data } = usePicture(job, sheet.id, view);
  if (!view) return null;
  const box = boxOf(view, data?.picture);
  const name = job.sheets[sheet.id]?.views[view.id]?.label ?? view.name;
  return (
    <li>
      <button type="button" onClick={() => onView(view.id)}>
        <strong>{name}</strong> {view.scale}
        <em>{box ? sizeInUnit(box[2] - box[0], box[3] - box[1], 1) : "…"}</em>
      </button>
    </li>
  );
}

/** Which finished page a sheet lies on, and what comes of it. */
function OnFinishedPage({ job, onto }: { job: Job; onto: NonNullable<Sheet["onto"]> }) {
  const name = job.document.sources.find((own) => own.id === onto.source)?.name ?? "";
  return (
    <>
      <Fact name={texts.liesOn}>{texts.pageOf(onto.page, name)}</Fact>
      {onto.signatures > 0 ? (
        <Note tone="warning" title={texts.itIsSigned(onto.signatures)}>
          {texts.signaturesComeBefore}
        </Note>
      ) : (
        <p className="soft small">{texts.everyPageStays}</p>
      )}
    </>
  );
}

/** The facts of a sheet. */
export function SheetTicket({ job, sheet, writing, edit, pasting, onView, onField }: Props) {
  const { data: facts } = usePenFacts();
  const paper = paperOf(job, sheet);
  const change = (fields: Schemas["SheetPatch"]) => edit({ kind: "change_sheet", sheet: sheet.id, fields });
  return (
    <Ticket title={sheet.name} under={sizeInUnit(paper.width, paper.height, 3)}>
      <Notices writing={writing} />
      <Fact name={paperTexts.name}>
        <TypedField label={texts.sheetName} value={sheet.name} read={async (t) => t.trim() || sheet.name} onChange={(name) => change({ name })} />
      </Fact>
      {sheet.onto ? (
        <OnFinishedPage job={job} onto={sheet.onto} />
      ) : (
        <>
          <FormatFacts sheet={sheet} edit={edit} />
          <FitSheet job={job} sheet={sheet} />
        </>
      )}
      <Fact name={viewsTexts.scale}>
        <TypedField label={texts.sheetScale} value={sheet.scale} read={async (text) => (await readScale(text)).scale} onChange={(scale) => change({ scale })} />
      </Fact>
      <Fact name={texts.projection}>
        <Segmented<"first" | "third">
          size="small"
          aria-label={texts.projection}
          value={sheet.arrangement}
          onChange={(arrangement) => edit({ kind: "rearrange", sheet: sheet.id, arrangement })}
          options={[
            { value: "first", label: texts.firstAngle },
            { value: "third", label: texts.thirdAngle },
          ]}
        />
      </Fact>
      <Fact name={texts.frame}>
        <Segmented<"iso" | "asme" | "none">
          size="small"
          aria-label={texts.frame}
          value={sheet.clean ? "none" : sheet.frame}
          onChange={(frame) => change(sheet.clean ? { frame, clean: false } : { frame })}
          options={[
            { value: "iso", label: texts.iso },
            { value: "asme", label: texts.asme },
            { value: "none", label: texts.none },
          ]}
        />
      </Fact>
      <Fact name={texts.pens}>
        <span className="pair">
          <select aria-label={texts.pensOfTheSheet} value={sheet.pens} onChange={(event) => change({ pens: event.target.value })}>
            {[...job.document.pens, ...(facts?.shipped ?? [])].map((set) => (
              <option key={set.id} value={set.id}>
                {set.name}
              </option>
            ))}
          </select>
          <Link className="as-file" to={`/jobs/${job.id}/pens/${sheet.id}`}>
            {texts.open}
          </Link>
        </span>
      </Fact>
      <RecipeChoice value={sheet.recipe} onChange={(recipe) => change({ recipe })} />
      <Furniture job={job} sheet={sheet} edit={edit} />
      <Section title={texts.views2}>
        {isEmpty(sheet) && (
          <Note tone="info" title={texts.thisSheetIsEmpty}>
            {texts.chooseADirectionUnder} <Link to={`/jobs/${job.id}/source`}>{stripTexts.source}</Link> {texts.andPutItOnThe}
          </Note>
        )}
        <ul className="view-list">
          {sheet.views.map((view, index) => (
            <ViewRow key={view.id} job={job} sheet={sheet} index={index} onView={onView} />
          ))}
          {sheet.annotations_3d.map((field) => (
            <li key={field.id}>
              <button type="button" onClick={() => onField(field.id)}>
                <strong>{field.name}</strong> {texts.in3d2}
                <em>
                  {mm(field.size[0], 1)} × {mm(field.size[1], 1)} {paperTexts.mm}
                </em>
              </button>
            </li>
          ))}
        </ul>
        <AddView job={job} sheet={sheet} onView={onView} />
        {pasting.paste && (
          <button type="button" className="as-file" onClick={pasting.paste}>
            {texts.paste} {pasting.what} <kbd>Ctrl</kbd>+<kbd>V</kbd>
          </button>
        )}
      </Section>
      {!sheet.clean && (
        <Section title={texts.notes}>
          <Notes sheet={sheet} edit={edit} />
        </Section>
      )}
      {sheet.views.length > 0 && <Artwork job={job.id} sheet={sheet.id} what={texts.thisSheet} />}
      {sheet.views.some((view) => view.content.kind === "projection") && <SaveTemplate job={job} sheet={sheet} />}
      <Button type="link" danger className="take-out" onClick={() => edit({ kind: "remove_sheet", sheet: sheet.id })}>
        {texts.removeThisSheet}
      </Button>
    </Ticket>
  );
}

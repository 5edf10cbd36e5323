import { Suspense, useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import type { Sheet } from "../api/client";
import { newId } from "../common/ids";
import { useEdit } from "../api/queries";
import { useCommands } from "../common/commands";
import { useOpenJob } from "../shell/JobFrame";
import { part } from "../common/part";
import { OpenSheet } from "./OpenSheet";
import { Strip } from "../strip/Strip";
import * as texts from "./texts";
import * as stripTexts from "../strip/texts";

const FromTemplate = part(async () => (await import("./FromTemplate")).FromTemplate);
const OpenPlate = part(async () => (await import("../cutting/OpenPlate")).OpenPlate);

/** The Sheets stop: sheets, and the views on them. */
export function SheetsStop() {
  const job = useOpenJob();
  const { sheet: id } = useParams();
  const navigate = useNavigate();
  const edit = useEdit(job.id);
  const sheets = job.document.sheets;
  const sheet = sheets.find((s) => s.id === id);
  const [templates, setTemplates] = useState(false);
  const open = (which: string) => void navigate(`/jobs/${job.id}/sheets/${which}`);
  const add = () => {
    // the server fills in what a fresh sheet has
    const fresh = { id: newId(), name: texts.sheet2(sheets.length + 1) } as Sheet;
    edit.mutate({ kind: "add_sheet", sheet: fresh }, { onSuccess: () => open(fresh.id) });
  };
  const duplicate = (which: Sheet) => {
    const fresh = newId();
    edit.mutate({ kind: "duplicate_sheet", sheet: which.id, new: fresh, name: "" }, { onSuccess: () => open(fresh) });
  };
  const remove = (which: Sheet) => edit.mutate({ kind: "remove_sheet", sheet: which.id });
  const place = sheets.findIndex((s) => s.id === id);
  const reorder = (to: number) => sheet && edit.mutate({ kind: "move_sheet", sheet: sheet.id, to });
  useCommands("sheets-stop", [
    { id: "add-sheet", title: texts.addASheet2, key: "A", run: add },
    { id: "template-sheet", title: texts.sheetFromATemplate, run: () => setTemplates(true) },
    ...(sheet ? [{ id: "duplicate-sheet", title: texts.duplicateWithAllItsViews(sheet.name), key: "Shift+D", run: () => duplicate(sheet) }] : []),
    ...(place > 0 ? [{ id: "sheet-up", title: texts.moveUpInTheOrder(sheet?.name), run: () => reorder(place - 1) }] : []),
    ...(place >= 0 && place < sheets.length - 1 ? [{ id: "sheet-down", title: texts.moveDownInTheOrder(sheet?.name), run: () => reorder(place + 1) }] : []),
    ...sheets.map((s) => ({ id: `open-${s.id}`, title: texts.openSheet(s.name), run: () => open(s.id) })),
  ]);
  if (!sheet && sheets[0]) return <Navigate to={`/jobs/${job.id}/sheets/${sheets[0].id}`} replace />;
  return (
    <div className="desk-row">
      <Strip job={job} stop="sheets" current={sheet?.id} onAdd={add} onTemplate={() => setTemplates(true)} onDuplicate={duplicate} onRemove={remove} />
      <Suspense>{templates && <FromTemplate job={job} close={() => setTemplates(false)} open={open} />}</Suspense>
      {!sheet && (
        <p className="empty-desk">
          <span>
            {texts.noSheetYetChooseA} <Link to={`/jobs/${job.id}/source`}>{stripTexts.source}</Link> {texts.andPutItOnOne}
          </span>
        </p>
      )}
      {sheet &&
        (sheet.cutting ? (
          <Suspense>
            <OpenPlate key={sheet.id} job={job} sheet={sheet} />
          </Suspense>
        ) : (
          <OpenSheet key={sheet.id} job={job} sheet={sheet} />
        ))}
    </div>
  );
}

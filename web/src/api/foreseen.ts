import type { Edit, Job, Sheet, View } from "./client";

/** Fields that a page replaces whole, with something more or less in them. */
const OF_SHEETS = ["parts_list", "furniture", "clean"];
const OF_VIEWS = ["classes"];

const only = (fields: Record<string, unknown>, names: string[]) => Object.fromEntries(Object.entries(fields).filter(([name]) => names.includes(name)));

/** The job as it will be after an edit, as far as that is certain before the answer: lists that were handed on whole. */
export function foreseen(job: Job, edit: Edit): Job {
  if (edit.kind !== "change_sheet" && edit.kind !== "change_view") return job;
  const change = (sheet: Sheet): Sheet => {
    if (sheet.id !== edit.sheet) return sheet;
    if (edit.kind === "change_sheet") return { ...sheet, ...only(edit.fields, OF_SHEETS) };
    return { ...sheet, views: sheet.views.map((view): View => (view.id === edit.view ? { ...view, ...only(edit.fields, OF_VIEWS) } : view)) };
  };
  return { ...job, document: { ...job.document, sheets: job.document.sheets.map(change) } };
}

import type { Edit, Job, Sheet, View } from "./client";

/** Fields that a page replaces whole, with something more or less in them. */
const OF_SHEETS = ["parts_list", "furniture", "clean"];
const OF_VIEWS = ["classes"];
const OF_FIELDS = ["name", "place", "size", "frame", "choices", "views", "default", "opening", "poster_dpi"];

type Field = Sheet["annotations_3d"][number];
type PreparedView = Field["views"][number];

const withView = (field: Field, view: PreparedView): Field => ({
  ...field,
  views: kept(field.views, view),
});

const only = (fields: Record<string, unknown>, names: string[]) => Object.fromEntries(Object.entries(fields).filter(([name]) => names.includes(name)));

/** A list with something kept in it, in its old place where it has one. */
const kept = <Kept extends { id: string }>(list: readonly Kept[], own: Kept): Kept[] =>
  list.some(({ id }) => id === own.id) ? list.map((old) => (old.id === own.id ? own : old)) : [...list, own];

const OF_ONE_SHEET: ReadonlySet<Edit["kind"]> = new Set(["change_sheet", "change_view", "change_annotation_3d", "change_prepared_view", "change_profile"]);

/** The job as it will be after an edit, as far as that is certain before the answer: what was handed on whole. */
export function foreseen(job: Job, edit: Edit): Job {
  const { document } = job;
  if (edit.kind === "keep_pens") return { ...job, document: { ...document, pens: kept(document.pens, edit.pens) } };
  if (edit.kind === "keep_pack") return { ...job, document: { ...document, packs: kept(document.packs, edit.pack) } };
  if (!OF_ONE_SHEET.has(edit.kind)) return job;
  const change = (sheet: Sheet): Sheet => {
    if (!("sheet" in edit) || sheet.id !== edit.sheet) return sheet;
    if (edit.kind === "change_annotation_3d")
      return {
        ...sheet,
        annotations_3d: sheet.annotations_3d.map((field) => (field.id === edit.annotation ? { ...field, ...only(edit.fields, OF_FIELDS) } : field)),
      };
    if (edit.kind === "change_prepared_view")
      return { ...sheet, annotations_3d: sheet.annotations_3d.map((field) => (field.id === edit.annotation ? withView(field, edit.view) : field)) };
    if (edit.kind === "change_profile")
      return {
        ...sheet,
        cutting: sheet.cutting && { ...sheet.cutting, placed: sheet.cutting.placed.map((own) => (own.id === edit.profile ? { ...own, ...edit.fields } : own)) },
      };
    if (edit.kind === "change_sheet") return { ...sheet, ...only(edit.fields, OF_SHEETS) };
    if (edit.kind !== "change_view") return sheet;
    return { ...sheet, views: sheet.views.map((view): View => (view.id === edit.view ? { ...view, ...only(edit.fields, OF_VIEWS) } : view)) };
  };
  return { ...job, document: { ...document, sheets: document.sheets.map(change) } };
}

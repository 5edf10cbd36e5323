import type { Edit, Sheet, View } from "../api/client";
import { detailOf, excerptOf, flatOf, modelOf } from "../api/content";
import { useCommands } from "../common/commands";
import type { DeskState } from "../views/mode";
import * as viewsTexts from "../views/texts";
import * as texts from "./texts";

interface Doings {
  sheet: Sheet;
  view: View | null;
  /** The 3D annotation that is selected. */
  field: Sheet["annotations_3d"][number] | undefined;
  /** Whether something is begun that Escape ends. */
  mode: boolean;
  begin: DeskState["begin"];
  edit: (edit: Edit) => void;
  select: (view: string | null) => void;
  proof: () => void;
  lookInto: () => void;
  remove: () => void;
  centre: () => void;
  overall: (view: string) => void;
  choose: () => void;
}

/** What can be done with an open sheet, by key and by the palette. */
export function useSheetCommands({ sheet, view, field, mode, begin, edit, select, proof, lookInto, remove, centre, overall, choose }: Doings) {
  useCommands("sheet", [
    { id: "proof-sheet", title: texts.proof(sheet.name), key: "P", run: proof },
    {
      id: "clean",
      title: sheet.clean ? texts.showFrameTitleBlockAnd : texts.geometryOnly2,
      key: "W",
      run: () => edit({ kind: "change_sheet", sheet: sheet.id, fields: { clean: !sheet.clean } }),
    },
    { id: "note", title: texts.writeANote2, key: "N", run: () => begin("note") },
    ...(field
      ? [
          { id: "set-views", title: texts.editThePreparedViewsOf(field.name), key: "V", run: lookInto },
          {
            id: "remove-field",
            title: texts.remove3(field.name),
            key: "Delete",
            run: () => edit({ kind: "remove_annotation_3d", sheet: sheet.id, annotation: field.id }),
          },
        ]
      : []),
    ...(view
      ? [
          ...(excerptOf(view) && !detailOf(view)
            ? [
                { id: "region", title: texts.pickTheAreaOfDrawing(view.name), key: "B", run: () => begin("region") },
                { id: "shift", title: texts.shiftTheDrawingInDrawing(view.name), key: "S", run: () => begin("shift") },
              ]
            : []),
          ...(!modelOf(view)
            ? flatOf(view)
              ? [{ id: "dimension", title: texts.dimensionTheView(view.name), key: "D", run: () => begin("dimension") }]
              : []
            : [
                { id: "pull", title: texts.projectAViewFrom(view.name), key: "G", run: () => begin("pull") },
                { id: "section", title: texts.cutASectionOfThe(view.name), key: "X", run: () => begin("section") },
                { id: "dimension", title: texts.dimensionTheView(view.name), key: "D", run: () => begin("dimension") },
                { id: "components", title: texts.chooseTheComponentsOfThe(view.name), key: "C", run: () => choose() },
              ]),
          { id: "detail", title: texts.circleADetailOfThe(view.name), key: "E", run: () => begin("detail") },
          { id: "overall", title: texts.overallSizesOfTheView(view.name), key: "O", run: () => overall(view.id) },
          { id: "centre", title: texts.centreTheViewOnThe(view.name), key: "M", run: centre },
          { id: "remove", title: texts.removeTheView(view.name), key: "Delete", run: remove },
          { id: "deselect", title: mode ? viewsTexts.cancel : texts.selectNothing, key: "Escape", run: () => (mode ? begin(null) : select(null)) },
        ]
      : mode || field
        ? [{ id: "leave", title: viewsTexts.cancel, key: "Escape", run: () => (mode ? begin(null) : select(null)) }]
        : []),
    ...sheet.views.map((v) => ({ id: `select-${v.id}`, title: texts.selectTheView(v.name, v.scale), run: () => select(v.id) })),
  ]);
}

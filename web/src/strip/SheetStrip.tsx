import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from "@dnd-kit/core";
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { NavLink } from "react-router";
import type { Job, Sheet } from "../api/client";
import { useEdit } from "../api/queries";
import { Thumbnail } from "../paper/Thumbnail";
import * as texts from "./texts";
import * as viewsTexts from "../views/texts";
import * as paperTexts from "../paper/texts";

interface Props {
  job: Job;
  stop: "sheets" | "pens" | "proof";
  current: string | undefined;
  onAdd?: () => void;
  onTemplate?: () => void;
  onDuplicate?: (sheet: Sheet) => void;
  onRemove?: (sheet: Sheet) => void;
}

function Row({ job, sheet, index, stop, current, onDuplicate, onRemove }: Props & { sheet: Sheet; index: number }) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: sheet.id, disabled: stop !== "sheets" });
  const at = sheet.id === current;
  return (
    <li ref={setNodeRef} className={isDragging ? "lifted" : ""} style={{ transform: CSS.Transform.toString(transform), transition }} {...listeners}>
      <NavLink to={`/jobs/${job.id}/${stop}/${sheet.id}`} className={at ? "at" : ""} draggable={false}>
        <Thumbnail job={job} sheet={sheet} />
        <span className="caption">
          <span>
            {index + 1} {sheet.name}
          </span>
          <em>{sheet.format.replace("mm", "")}</em>
        </span>
      </NavLink>
      {stop === "sheets" && (
        <span className="strip-acts">
          {at && onDuplicate && (
            <button type="button" onClick={() => onDuplicate(sheet)}>
              {texts.duplicate}
            </button>
          )}
          {at && onRemove && (
            <button type="button" onClick={() => onRemove(sheet)}>
              {viewsTexts.remove2}
            </button>
          )}
          <span className="grasp" {...attributes} {...listeners} aria-label={paperTexts.move(sheet.name)}>
            {texts.move2}
          </span>
        </span>
      )}
    </li>
  );
}

/** The job's sheets one under the other, as they look, in the order in which they go out; to be dragged into another. */
export function SheetStrip(props: Props) {
  const { job, onAdd, onTemplate } = props;
  const edit = useEdit(job.id);
  const sheets = job.document.sheets;
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const drop = ({ active, over }: DragEndEvent) => {
    const to = sheets.findIndex((sheet) => sheet.id === over?.id);
    if (over && active.id !== over.id && to >= 0) edit.mutate({ kind: "move_sheet", sheet: String(active.id), to });
  };
  return (
    <div className="strip">
      <h3>{texts.sheets}</h3>
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
        <SortableContext items={sheets.map((sheet) => sheet.id)} strategy={verticalListSortingStrategy}>
          <ul className="sheets">
            {sheets.map((sheet, index) => (
              <Row key={sheet.id} {...props} sheet={sheet} index={index} />
            ))}
          </ul>
        </SortableContext>
      </DndContext>
      {onAdd && (
        <button type="button" className="add" onClick={onAdd}>
          {texts.addASheet}
        </button>
      )}
      {onTemplate && (
        <button type="button" className="add" onClick={onTemplate}>
          {texts.fromATemplate}
        </button>
      )}
    </div>
  );
}

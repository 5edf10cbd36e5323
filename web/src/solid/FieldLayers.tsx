import type { Edit, Job, Sheet } from "../api/client";
import type { PaperSize, SnapLines } from "../paper/geometry";
import { FieldLayer } from "./FieldLayer";

interface Props {
  job: Job;
  sheet: Sheet;
  paper: PaperSize;
  zoom: number;
  /** What a 3D annotation comes to rest at when it is dragged. */
  lines: (field: string) => SnapLines;
  selected: string | undefined;
  edit: (edit: Edit) => void;
  /** *look*: opened, to be turned. */
  onSelect: (field: string, look: boolean) => void;
}

/** The 3D annotations of a sheet, over its paper. */
export function FieldLayers({ job, sheet, paper, zoom, lines, selected, edit, onSelect }: Props) {
  return sheet.fields.map((own) => (
    <FieldLayer
      key={own.id}
      job={job}
      sheet={sheet}
      field={own}
      paper={paper}
      zoom={zoom}
      lines={lines(own.id)}
      selected={own.id === selected}
      onSelect={() => onSelect(own.id, false)}
      onOpen={() => onSelect(own.id, true)}
      onMove={(by) => edit({ kind: "move_field", sheet: sheet.id, field: own.id, by })}
      onSize={(place, size) => edit({ kind: "change_field", sheet: sheet.id, field: own.id, fields: { place, size } })}
    />
  ));
}

import type { Edit, Job, Sheet } from "../api/client";
import type { PaperSize, SnapLines } from "../paper/geometry";
import { AnnotationLayer } from "./AnnotationLayer";

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
export function AnnotationLayers({ job, sheet, paper, zoom, lines, selected, edit, onSelect }: Props) {
  return sheet.annotations_3d.map((own) => (
    <AnnotationLayer
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
      onMove={(by) => edit({ kind: "move_annotation_3d", sheet: sheet.id, annotation: own.id, by })}
      onSize={(place, size) => edit({ kind: "change_annotation_3d", sheet: sheet.id, annotation: own.id, fields: { place, size } })}
    />
  ));
}

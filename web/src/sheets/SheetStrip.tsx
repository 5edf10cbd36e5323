import { NavLink } from "react-router";
import type { Job, Sheet, Trade } from "../api/client";
import { useTrade } from "../api/queries";
import { frameOf, paperOf } from "./geometry";
import { ViewOnPaper } from "./ViewOnPaper";

const WIDTH = 122;
const HIGHEST = 130;

export function Thumbnail({ job, sheet, trade }: { job: Job; sheet: Sheet; trade: Trade }) {
  const paper = paperOf(sheet, trade);
  const zoom = Math.min(WIDTH / paper.width, HIGHEST / paper.height);
  const frame = frameOf(sheet, paper, trade);
  return (
    <svg className="thumbnail" width={paper.width * zoom} height={paper.height * zoom} aria-hidden>
      {frame && (
        <rect className="frame-line" x={frame[0] * zoom} y={(paper.height - frame[3]) * zoom} width={(frame[2] - frame[0]) * zoom} height={(frame[3] - frame[1]) * zoom} />
      )}
      {sheet.views?.map((view) => <ViewOnPaper key={view.id} job={job.id} sheet={sheet.id} view={view} paper={paper} zoom={zoom} trade={trade} />)}
    </svg>
  );
}

interface Props {
  job: Job;
  stop: "sheets" | "proof";
  current: string | undefined;
  onAdd?: () => void;
}

/** The job's sheets one under the other, as they look. */
export function SheetStrip({ job, stop, current, onAdd }: Props) {
  const { data: trade } = useTrade();
  const sheets = job.document.sheets ?? [];
  return (
    <div className="strip">
      <h3>Sheets</h3>
      <ul className="sheets">
        {trade &&
          sheets.map((sheet, index) => (
            <li key={sheet.id}>
              <NavLink to={`/jobs/${job.id}/${stop}/${sheet.id}`} className={sheet.id === current ? "at" : ""}>
                <Thumbnail job={job} sheet={sheet} trade={trade} />
                <span className="caption">
                  <span>
                    {index + 1} {sheet.name}
                  </span>
                  <em>{(sheet.format ?? "").replace("mm", "")}</em>
                </span>
              </NavLink>
            </li>
          ))}
      </ul>
      {onAdd && (
        <button type="button" className="add" onClick={onAdd}>
          + Add a sheet
        </button>
      )}
    </div>
  );
}

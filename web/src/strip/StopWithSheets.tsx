import type { ReactNode } from "react";
import { Link, Navigate, useParams } from "react-router";
import type { Job, Sheet } from "../api/client";
import { useOpenJob } from "../shell/JobFrame";
import { Strip } from "./Strip";
import * as texts from "./texts";
import * as paperTexts from "../paper/texts";

interface Props {
  stop: "pens" | "proof";
  /** What is to be done, for a job without a sheet: “to proof”. */
  todo: string;
  children: (job: Job, sheet: Sheet) => ReactNode;
}

/** A stop that works on one sheet of the job: the strip, and the sheet that is open; the first where none is named. */
export function StopWithSheets({ stop, todo, children }: Props) {
  const job = useOpenJob();
  const { sheet: id } = useParams();
  const sheets = job.document.sheets;
  const sheet = sheets.find((s) => s.id === id);
  if (!sheet && sheets[0]) return <Navigate to={`/jobs/${job.id}/${stop}/${sheets[0].id}`} replace />;
  return (
    <div className="desk-row">
      <Strip job={job} stop={stop} current={sheet?.id} />
      {!sheet && (
        <p className="empty-desk">
          <span>
            {paperTexts.nothing} {todo} {texts.yetPutAViewOr} <Link to={`/jobs/${job.id}/source`}>{texts.source}</Link> {texts.first}
          </span>
        </p>
      )}
      {sheet && children(job, sheet)}
    </div>
  );
}

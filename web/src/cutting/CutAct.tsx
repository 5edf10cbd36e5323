import { useState } from "react";
import { useNavigate } from "react-router";
import type { Job } from "../api/client";
import { useEdit } from "../api/queries";
import { part } from "../common/part";
import { Suspense } from "react";
import * as texts from "./texts";

const CutDialog = part(async () => (await import("./CutDialog")).CutDialog);

/** From a source to a plate: what is cut is chosen, and its first plate opened. */
export function CutAct({ job, source, drawing, given }: { job: Job; source: string; drawing: boolean; given: readonly string[] }) {
  const [open, setOpen] = useState(false);
  const navigate = useNavigate();
  const edit = useEdit(job.id);
  const made = (list: string) => {
    setOpen(false);
    edit.mutate(
      { kind: "lay_parts", cut_list: list, contents: [{ cut_list: list, plate: 0, placed: [], decorations: [] }] },
      { onSuccess: () => void navigate(`/jobs/${job.id}/sheets/${list}-1?arrange`) },
    );
  };
  return (
    <span className="layer-acts">
      <button type="button" onClick={() => setOpen(true)}>
        {drawing ? texts.cutTheContours : texts.cutFlatParts}
      </button>
      <Suspense>{open && <CutDialog job={job} source={source} drawing={drawing} given={given} close={() => setOpen(false)} onMade={made} />}</Suspense>
    </span>
  );
}

import { Button } from "antd";
import type { Schemas } from "../api/client";
import { cancelWork, drawAgain } from "../api/queries";
import { Note } from "../ticket/Ticket";

interface Props {
  job: number;
  sheet: string;
  view: string;
  what: string;
  state: Pick<Schemas["PictureState"], "key" | "work"> | undefined;
  again: () => void;
}

/** How far the drawing of a view is, with a way to call it off; and what became of it. */
export function WorkNotes({ job, sheet, view, what, state, again }: Props) {
  const work = state?.work;
  if (work?.state === "queued" || work?.state === "running")
    return (
      <Note tone="info" title={`${work.text || "Starting"} …`}>
        <Button type="link" size="small" onClick={() => void cancelWork(state?.key as string).then(again)}>
          Cancel
        </Button>
      </Note>
    );
  if (work?.state === "cancelled")
    return (
      <Note tone="warning" title={`This ${what} was cancelled before it was drawn.`}>
        <Button type="link" size="small" onClick={() => void drawAgain(job, sheet, view).then(again)}>
          Draw it
        </Button>
      </Note>
    );
  return work?.state === "failed" ? (
    <Note tone="error" title={`This ${what} cannot be drawn.`}>
      {work.error}
    </Note>
  ) : null;
}

import { Button } from "antd";
import type { Schemas } from "../api/client";
import { cancelWork, drawAgain } from "../api/queries";
import { Note } from "../ticket/Ticket";
import * as texts from "./texts";

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
      <Note tone="info" title={`${work.text || texts.starting} …`}>
        <Button type="link" size="small" onClick={() => void cancelWork(state?.key as string).then(again)}>
          {texts.cancel}
        </Button>
      </Note>
    );
  if (work?.state === "cancelled")
    return (
      <Note tone="warning" title={texts.thisWasCancelledBeforeIt(what)}>
        <Button type="link" size="small" onClick={() => void drawAgain(job, sheet, view).then(again)}>
          {texts.drawIt}
        </Button>
      </Note>
    );
  return work?.state === "failed" ? (
    <Note tone="error" title={texts.thisCannotBeDrawn(what)}>
      {work.error}
    </Note>
  ) : null;
}

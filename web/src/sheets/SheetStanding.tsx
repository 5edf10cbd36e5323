import { App, Button } from "antd";
import { useMemo, type ReactNode } from "react";
import { Link } from "react-router";
import type { Edit, Job, Schemas, Sheet } from "../api/client";
import { useEdit } from "../api/queries";
import { useNextRevision, useStates } from "../api/states";
import { Note, Standing } from "../ticket/Ticket";
import * as texts from "./texts";

/** A sheet's state, and how it is edited: one that is released says what opens it. */
export function useSheetEdit(job: Job, sheet: Sheet) {
  const change = useEdit(job.id);
  const { message } = App.useApp();
  const { data: states } = useStates(job.id);
  const state = states?.get(`sheet:${sheet.id}`);
  const closed = state?.state === "released";
  const edit = (made: Edit) => (closed ? void message.info(texts.closedAt(state.revision)) : change.mutate(made));
  return { state, closed, edit };
}

/** The state of a sheet on its tickets; a released one is closed, and says what opens it. */
export function SheetStanding({ job, sheet, state, children }: { job: Job; sheet: Sheet; state: Schemas["StateLine"] | undefined; children: ReactNode }) {
  const revise = useNextRevision(job.id);
  const [now, revision] = [state?.state, state?.revision ?? ""];
  const standing = useMemo(
    () =>
      now
        ? {
            badge: (
              <Link className={`part-state ${now.replace(" ", "-")}`} to={`/jobs/${job.id}/release`}>
                {texts.inState(now, revision)}
              </Link>
            ),
            closed:
              now === "released" ? (
                <Note tone="info" title={texts.closedAt(revision)}>
                  <Button size="small" loading={revise.isPending} onClick={() => revise.mutate({ subjects: [`sheet:${sheet.id}`], note: "" })}>
                    {texts.nextRevision}
                  </Button>
                </Note>
              ) : null,
          }
        : null,
    [now, revision, job.id, sheet.id, revise],
  );
  return <Standing value={standing}>{children}</Standing>;
}

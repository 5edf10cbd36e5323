import { Button, Progress } from "antd";
import { Link } from "react-router";
import type { Job, Sheet } from "../api/client";
import { useProof } from "../api/proof";
import { cancelWork, useEdit } from "../api/queries";
import { RecipeChoice } from "../recipes/RecipeChoice";
import { Note, Ticket } from "../ticket/Ticket";
import { isEmpty, whyEmpty } from "../paper/geometry";
import * as texts from "./texts";

/** A sheet whose file is not there: how far it is, or how to have it made. */
export function NotMade({ job, sheet, make, busy }: { job: Job; sheet: Sheet; make: () => void; busy: boolean }) {
  const { data: proof } = useProof(job.id, sheet.id, job.state);
  const edit = useEdit(job.id);
  const work = proof?.work;
  const running = work?.state === "queued" || work?.state === "running";
  return (
    <Ticket title={sheet.name} under={running ? texts.beingWrittenAndMeasured : texts.notProofedAsItIs}>
      {running ? (
        <>
          <Progress percent={Math.round((work.share ?? 0) * 100)} status="active" />
          <p className="soft">{work.text}</p>
          <Button onClick={() => proof && void cancelWork(proof.key)}>{texts.cancel}</Button>
        </>
      ) : (
        <>
          {work?.state === "failed" && (
            <Note tone="error" title={texts.theFileCouldNotBe}>
              {work.error}
            </Note>
          )}
          {isEmpty(sheet) && (
            <Note tone="info" title={texts.thisSheetIsEmpty}>
              {texts.putAViewOrA} <Link to={`/jobs/${job.id}/source`}>{texts.source}</Link> {texts.first}
            </Note>
          )}
          <RecipeChoice value={sheet.recipe} onChange={(recipe) => edit.mutate({ kind: "change_sheet", sheet: sheet.id, fields: { recipe } })} />
          <p>{texts.theProofIsTheReal}</p>
          <Button type="primary" onClick={make} loading={busy} disabled={isEmpty(sheet)} title={whyEmpty(sheet)}>
            {texts.makeTheProof} <kbd>P</kbd>
          </Button>
        </>
      )}
    </Ticket>
  );
}

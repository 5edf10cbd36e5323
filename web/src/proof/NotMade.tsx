import { Button, Progress } from "antd";
import { Link } from "react-router";
import type { Job, Sheet } from "../api/client";
import { useProof } from "../api/proof";
import { cancelWork, useEdit } from "../api/queries";
import { RecipeChoice } from "../recipes/RecipeChoice";
import { Note, Ticket } from "../ticket/Ticket";
import { isEmpty, whyEmpty } from "../sheets/geometry";

/** A sheet whose file is not there: how far it is, or how to have it made. */
export function NotMade({ job, sheet, make, busy }: { job: Job; sheet: Sheet; make: () => void; busy: boolean }) {
  const { data: proof } = useProof(job.id, sheet.id, job.state);
  const edit = useEdit(job.id);
  const work = proof?.work;
  const running = work?.state === "queued" || work?.state === "running";
  return (
    <Ticket title={sheet.name} under={running ? "being written and measured" : "not proofed as it is now"}>
      {running ? (
        <>
          <Progress percent={Math.round((work.share ?? 0) * 100)} status="active" />
          <p className="soft">{work.text}</p>
          <Button onClick={() => proof && void cancelWork(proof.key)}>Cancel</Button>
        </>
      ) : (
        <>
          {work?.state === "failed" && <Note tone="error" title="The file could not be made.">{work.error}</Note>}
          {isEmpty(sheet) && (
            <Note tone="info" title="This sheet is empty.">
              Put a view or a model on it under <Link to={`/jobs/${job.id}/source`}>Source</Link> first.
            </Note>
          )}
          <RecipeChoice value={sheet.recipe} onChange={(recipe) => edit.mutate({ kind: "change_sheet", sheet: sheet.id, fields: { recipe } })} />
          <p>The proof is the real file: Skalto writes it, opens it again with another engine, and measures it.</p>
          <Button type="primary" onClick={make} loading={busy} disabled={isEmpty(sheet)} title={whyEmpty(sheet)}>
            Make the proof <kbd>P</kbd>
          </Button>
        </>
      )}
    </Ticket>
  );
}

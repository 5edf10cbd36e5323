import { Button, Upload } from "antd";
import type { Job, Schemas } from "../api/client";
import { useBringIn, useTrade } from "../api/queries";
import { Note } from "../ticket/Ticket";
import * as texts from "./texts";

/** Which revision a source is of, what the last one brought, and the way to bring in a newer one. */
export function Revision({ job, source }: { job: Job; source: Schemas["SourceRef"] }) {
  const { data: trade } = useTrade();
  const bringIn = useBringIn(job.id);
  const take = (file: File) => {
    bringIn.mutate({ file, replaces: source.id });
    return false;
  };
  return (
    <>
      {source.earlier.length > 0 && (
        <Note tone="info" title={texts.revisionOfThisSource(source.earlier.length + 1)}>
          {source.news}.
        </Note>
      )}
      <Upload beforeUpload={take} showUploadList={false} accept={trade?.endings.join(",")}>
        <Button type="link" size="small" className="flush" loading={bringIn.isPending}>
          {texts.replaceWithANewerRevision}
        </Button>
      </Upload>
    </>
  );
}

import { Button, Progress, Upload } from "antd";
import { useQueryClient } from "@tanstack/react-query";
import type { Job } from "../api/client";
import { dismissIncoming, readAgain, useBringIn, useIncoming, useTrade } from "../api/queries";
import { useTell } from "../api/tell";
import * as texts from "./texts";

/** Files being read: progress with a way to call off, and what was refused with its reason. */
export function IncomingList({ job }: { job: Job }) {
  const { data: rows = [] } = useIncoming(job.id);
  const client = useQueryClient();
  const tell = useTell();
  const act = async (what: (job: number, id: number) => Promise<void>, id: number) => {
    await what(job.id, id).catch(tell);
    await client.invalidateQueries({ queryKey: ["incoming", job.id] });
  };
  return (
    <ul className="incoming" aria-label={texts.filesBeingRead}>
      {rows.map((row) => (
        <li key={row.id} className={row.state}>
          <strong>{row.name}</strong>
          {row.state === "reading" ? (
            <>
              <Progress percent={Math.round(row.share * 100)} size="small" status="active" />
              <span className="soft">{row.text || texts.starting}</span>
              <Button size="small" onClick={() => void act(dismissIncoming, row.id)}>
                {texts.cancel}
              </Button>
            </>
          ) : (
            <>
              <span role="alert">{row.error}</span>
              <Button size="small" onClick={() => void act(readAgain, row.id)}>
                {texts.readAgain}
              </Button>
              <Button size="small" onClick={() => void act(dismissIncoming, row.id)}>
                {texts.dismiss}
              </Button>
            </>
          )}
        </li>
      ))}
    </ul>
  );
}

/** Where a file is dropped or chosen. */
export function Intake({ job, large }: { job: Job; large: boolean }) {
  const { data: trade } = useTrade();
  const bringIn = useBringIn(job.id);
  const take = (file: File) => {
    bringIn.mutate(file);
    return false;
  };
  const accept = trade?.endings.join(",");
  if (!large)
    return (
      <Upload beforeUpload={take} showUploadList={false} multiple accept={accept}>
        <Button type="link" loading={bringIn.isPending}>
          {texts.addAFile}
        </Button>
      </Upload>
    );
  return (
    <Upload.Dragger beforeUpload={take} showUploadList={false} multiple className="drop" accept={accept}>
      <p className="drop-title">{texts.dropAModelOrA}</p>
      <p className="soft">
        {texts.stepIgesBrepStlObj} {Math.round((trade?.size_limit ?? 0) / 1e6)} {texts.mb}
      </p>
    </Upload.Dragger>
  );
}

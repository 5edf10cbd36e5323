import { App, Input, Modal } from "antd";
import { useRef, useState } from "react";
import { said, type Job } from "../api/client";
import { useTakeTable } from "../api/parts";
import { Note } from "../ticket/Ticket";
import * as texts from "./texts";

/** A table of parts that is pasted, or read from a file. */
export function TableDialog({ job, close }: { job: Job; close: () => void }) {
  const [text, setText] = useState("");
  const take = useTakeTable(job.id);
  const file = useRef<HTMLInputElement>(null);
  const { message } = App.useApp();
  const go = () =>
    take.mutate(text, {
      onSuccess: ({ parts }) => {
        void message.info(texts.taken(parts));
        close();
      },
    });
  return (
    <Modal
      open
      onCancel={close}
      title={texts.tableTitle}
      width={680}
      style={{ top: 40 }}
      okText={texts.takeIn}
      okButtonProps={{ disabled: !text.trim() }}
      confirmLoading={take.isPending}
      onOk={go}
    >
      <p className="soft">{texts.tableHelp}</p>
      <Input.TextArea aria-label={texts.tableText} rows={12} value={text} onChange={(event) => setText(event.target.value)} />
      <p className="layer-acts">
        <button type="button" onClick={() => file.current?.click()}>
          {texts.fromAFile}
        </button>
      </p>
      <input
        ref={file}
        hidden
        type="file"
        aria-label={texts.fromAFile}
        accept=".csv,.tsv,.txt,text/csv"
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          event.target.value = "";
          if (chosen) void chosen.text().then(setText);
        }}
      />
      {take.error && <Note tone="error" title={said(take.error)} />}
    </Modal>
  );
}

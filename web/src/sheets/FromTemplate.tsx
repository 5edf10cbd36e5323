import { App, Modal, Select } from "antd";
import { useState } from "react";
import { said, type Job } from "../api/client";
import { useParts } from "../api/parts";
import { useMakeSheets, useTemplates } from "../api/release";
import { Fact, Note } from "../ticket/Ticket";
import * as own from "./template.texts";
import * as texts from "./texts";

/** A new sheet as a template lays it out, for a part of the job. */
export function FromTemplate({ job, close, open }: { job: Job; close: () => void; open: (sheet: string) => void }) {
  const { data: templates } = useTemplates();
  const { data, error } = useParts(job);
  const [template, setTemplate] = useState("part");
  const [part, setPart] = useState<string>();
  const make = useMakeSheets(job.id);
  const { message } = App.useApp();
  const go = () =>
    part &&
    make.mutate(
      { template, parts: [part], hands_once: false },
      {
        onSuccess: ({ new: made, anew, left, job: { document } }) => {
          const there = made[0] ?? anew[0] ?? document.sheets.find((sheet) => sheet.made_for?.part === part)?.id;
          if (left[0]) void message.info(left[0]);
          if (there) open(there);
          close();
        },
      },
    );
  return (
    <Modal
      open
      onCancel={close}
      title={texts.sheetFromATemplate}
      width={460}
      okText={own.makeTheSheet}
      okButtonProps={{ disabled: !part }}
      confirmLoading={make.isPending}
      onOk={go}
    >
      <Fact name={texts.template}>
        <select aria-label={texts.template} value={template} onChange={(event) => setTemplate(event.target.value)}>
          {templates?.map((row) => (
            <option key={row.id} value={row.id}>
              {row.name}
            </option>
          ))}
        </select>
      </Fact>
      <Fact name={own.ofPart}>
        <Select<string>
          autoFocus
          showSearch={{ optionFilterProp: "label" }}
          aria-label={own.ofPart}
          placeholder={own.choosePart}
          style={{ width: "100%" }}
          value={part}
          onChange={setPart}
          options={(data?.rows ?? []).map((row) => ({ value: row.key, label: [row.mark, row.name].filter(Boolean).join(" ") }))}
        />
      </Fact>
      {data && !data.rows.length && <p className="soft">{own.noPartsYet}</p>}
      {error && <Note tone="error" title={said(error)} />}
    </Modal>
  );
}

import { App, Input, Modal } from "antd";
import { useState } from "react";
import { recipesOf, useRecipes } from "../api/output";
import { useIssueDrawings, type DrawingsIssue, type NamedDrawing } from "../api/register";
import { Fact } from "../ticket/Ticket";
import * as texts from "./texts";

/** Issues drawings of any jobs, an issue for each job. */
export function IssueDialog({ drawings, close }: { drawings: NamedDrawing[]; close: () => void }) {
  const { data: list } = useRecipes();
  const issue = useIssueDrawings();
  const { message } = App.useApp();
  const [wish, setWish] = useState<DrawingsIssue>({ purpose: "for information", revision: "", note: "", recipe: "", each: false });
  const set = (fields: Partial<DrawingsIssue>) => setWish({ ...wish, ...fields });
  const begin = () =>
    issue.mutate(
      { drawings: drawings.map(({ job, sheet }) => ({ job, sheet })), wish },
      {
        onSuccess: (made) => {
          void message.info(texts.issued(made.issues.length));
          close();
        },
      },
    );
  return (
    <Modal
      open
      title={texts.issueDrawings(drawings.length)}
      okText={texts.issueNow}
      cancelText={texts.cancel}
      confirmLoading={issue.isPending}
      onOk={begin}
      onCancel={close}
    >
      <p className="soft">{texts.jobs(new Set(drawings.map((own) => own.job)).size)}</p>
      <Fact name={texts.purpose}>
        <select aria-label={texts.purpose} value={wish.purpose} onChange={(event) => set({ purpose: event.target.value })}>
          {(list?.purposes ?? [wish.purpose]).map((own) => (
            <option key={own}>{own}</option>
          ))}
        </select>
      </Fact>
      <Fact name={texts.revision}>
        <Input
          size="small"
          aria-label={texts.revision}
          placeholder={texts.sheetsOwn}
          maxLength={12}
          value={wish.revision}
          onChange={(event) => set({ revision: event.target.value.trim() })}
        />
      </Fact>
      <Fact name={texts.recipe}>
        <select aria-label={texts.recipe} value={wish.recipe} onChange={(event) => set({ recipe: event.target.value })}>
          <option value="">{texts.eachOwn}</option>
          {recipesOf(list).map((own) => (
            <option key={own.id} value={own.id}>
              {own.name}
            </option>
          ))}
        </select>
      </Fact>
      <Fact name={texts.files}>
        <select aria-label={texts.files} value={wish.each ? "each" : "one"} onChange={(event) => set({ each: event.target.value === "each" })}>
          <option value="one">{texts.oneFile}</option>
          <option value="each">{texts.oneEach}</option>
        </select>
      </Fact>
      <Input.TextArea aria-label={texts.note} placeholder={texts.note} rows={2} value={wish.note} onChange={(event) => set({ note: event.target.value })} />
    </Modal>
  );
}

import { Button, Checkbox, Input, Spin } from "antd";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { useLatest } from "../api/change";
import { useEdit } from "../api/queries";
import { callMyself, ownName, said } from "../api/client";
import { useBeginRelease, useReleasePreview, useRules, type Wish } from "../api/release";
import { useCommands } from "../common/commands";
import { useRoom } from "../common/useRoom";
import { MainAct, useOpenJob } from "../shell/JobFrame";
import { Fact, Note, Ticket } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { FileTree } from "./FileTree";
import { Queue } from "./Queue";
import { RulesDialog } from "./RulesDialog";
import { StatesTable } from "./StatesTable";
import "./release.css";
import * as texts from "./texts";

type Shown = "files" | "states" | "queue";

const SHIPPED = "shop";
const plain = async (text: string) => text.trim();

/** The Release stop: what rules make of the job's parts and sheets, their states, and the queue of files. */
export function ReleaseStop() {
  const job = useOpenJob();
  const { data: all } = useRules();
  const edit = useEdit(job.id);
  const [chosenRules, wishRules] = useLatest(job.id, job.document.rules || SHIPPED);
  const setRules = (id: string) => {
    wishRules(id);
    edit.mutate({ kind: "set_release", rules: id });
  };
  const rules = all?.find((own) => own.id === chosenRules) ?? all?.[0];
  const [chosen, setChosen] = useState<string[]>([]);
  const [alone, setAlone] = useState(false);
  const [everything, setEverything] = useState(false);
  const [accepted, setAccepted] = useState(false);
  const [note, setNote] = useState("");
  const [name, setName] = useState(ownName());
  const [shown, setShown] = useState<Shown>("files");
  const [editing, setEditing] = useState(false);
  const element = useRef<HTMLDivElement>(null);
  const { height } = useRoom(element);
  const begin = useBeginRelease(job.id);
  const wish: Wish = { rules: rules?.id ?? SHIPPED, subjects: alone && chosen.length ? chosen : null, everything, note: "", accepted };
  const { data: preview, error } = useReleasePreview(job, wish, rules);
  const ready = preview && !preview.work ? preview : undefined;
  const blocked = !ready?.files.length || ready.against.length > 0 || (ready.held.length > 0 && !accepted);
  const go = () => begin.mutate({ ...wish, note }, { onSuccess: () => (setNote(""), setShown("queue")) });
  const kept = preview?.files.filter((file) => file.kept).length ?? 0;
  const tab = (own: Shown, label: string) => (
    <button type="button" role="tab" aria-selected={shown === own} onClick={() => setShown(own)}>
      {label}
    </button>
  );
  useCommands("release", [
    ...(blocked ? [] : [{ id: "release", title: texts.release, run: go }]),
    { id: "rules", title: texts.rules, run: () => setEditing(true) },
    { id: "files", title: texts.files, run: () => setShown("files") },
    { id: "states", title: texts.states, run: () => setShown("states") },
    { id: "queue", title: texts.queue, run: () => setShown("queue") },
  ]);
  return (
    <div className="desk-row parts-stop">
      <MainAct>
        <Button
          type="primary"
          disabled={blocked}
          title={preview?.against[0] ?? (accepted ? undefined : preview?.held[0])}
          loading={begin.isPending}
          onClick={go}
        >
          {texts.release}
        </Button>
      </MainAct>
      <div className="parts-desk release-desk" ref={element}>
        <div className="chips tabs" role="tablist" aria-label={texts.tabs}>
          {tab("files", texts.files)}
          {tab("states", texts.states)}
          {tab("queue", texts.queue)}
        </div>
        {shown === "files" && (
          <div className="would-be" style={{ maxHeight: height - 70 }}>
            {error && <Note tone="error" title={said(error)} />}
            {!ready && !error && <Spin description={preview?.work ? texts.lookingAtParts : texts.lookingAhead} />}
            {preview?.against.map((line) => (
              <Note key={line} tone="error" title={line} />
            ))}
            {preview?.marks_wanted && (
              <span className="layer-acts">
                <Link to={`/jobs/${job.id}/parts?marks`}>{texts.giveMarks}</Link>
              </span>
            )}
            {preview?.held.map((line) => (
              <Note key={line} tone="warning" title={line} />
            ))}
            {!!preview?.held.length && (
              <Checkbox checked={accepted} onChange={(event) => setAccepted(event.target.checked)}>
                {texts.releaseWithoutThem}
              </Checkbox>
            )}
            {preview && preview.files.length > 0 && <FileTree files={preview.files} />}
            {preview?.notices.map((line) => (
              <Note key={line} tone="info" title={line} />
            ))}
          </div>
        )}
        {shown === "states" && <StatesTable job={job} height={height} chosen={chosen} onChosen={setChosen} rules={rules?.id ?? SHIPPED} note={note} />}
        {shown === "queue" && <Queue job={job.id} height={height} />}
      </div>
      <Ticket title={texts.release} under={preview ? texts.outboxFiles(preview.files.length, kept) : undefined}>
        <Fact name={texts.rules}>
          <span className="pair">
            <select aria-label={texts.rules} value={rules?.id ?? ""} onChange={(event) => setRules(event.target.value)}>
              {all?.map((own) => (
                <option key={own.id} value={own.id}>
                  {own.name}
                  {own.version > 1 ? ` (${own.version})` : ""}
                </option>
              ))}
            </select>
            <button type="button" className="as-file" onClick={() => setEditing(true)}>
              {texts.openRules}
            </button>
          </span>
        </Fact>
        <Fact name={texts.whatIsReleased}>
          <select
            aria-label={texts.whatIsReleased}
            value={alone && chosen.length ? "some" : "all"}
            onChange={(event) => setAlone(event.target.value === "some")}
          >
            <option value="all">{texts.ofAll}</option>
            {chosen.length > 0 && <option value="some">{texts.ofSelected(chosen.length)}</option>}
          </select>
        </Fact>
        <Checkbox checked={everything} onChange={(event) => setEverything(event.target.checked)}>
          {texts.everything}
        </Checkbox>
        <Fact name={texts.revisions}>
          <select
            aria-label={texts.revisions}
            value={job.document.revisions}
            onChange={(event) => edit.mutate({ kind: "set_release", revisions: event.target.value as "letters" | "numbers" })}
          >
            <option value="letters">{texts.byLetters}</option>
            <option value="numbers">{texts.byNumbers}</option>
          </select>
        </Fact>
        <Fact name={texts.yourName}>
          <TypedField
            label={texts.yourName}
            value={name}
            read={plain}
            onChange={(text) => {
              callMyself(text);
              setName(text);
            }}
          />
        </Fact>
        <Input.TextArea aria-label={texts.note} placeholder={texts.note} rows={3} value={note} onChange={(event) => setNote(event.target.value)} />
      </Ticket>
      {editing && rules && <RulesDialog rules={rules} shipped={rules.id === SHIPPED} close={() => setEditing(false)} choose={setRules} />}
    </div>
  );
}

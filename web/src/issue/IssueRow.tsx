import { App, Progress } from "antd";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import { dayOf } from "../common/dates";
import { useIssueAct, type Issue } from "../api/output";
import { useOpening } from "./opening";
import * as texts from "./texts";

const STATES: Record<string, string> = { running: texts.underWay, done: "issued", failed: "failed", cancelled: "cancelled", asking: texts.waitsForYou };
export const sizeOf = (bytes: number) => (bytes >= 1e5 ? `${(bytes / 1e6).toFixed(2)} MB` : `${(bytes / 1e3).toFixed(1)} kB`);
export const stateOf = (issue: Issue) => STATES[issue.state] ?? issue.state;

/** An issue: how far it is, and once it is done its files. */
export function IssueRow({ issue }: { issue: Issue }) {
  const act = useIssueAct();
  const { message } = App.useApp();
  const opens = useOpening((state) => state.opens);
  const before = useRef(issue.state);
  const first = issue.files.find((file) => file.name.endsWith(".pdf"));
  useEffect(() => {
    if (opens && (before.current === "running" || before.current === "asking") && issue.state === "done" && first) {
      const address = `/api/issues/${issue.id}/files/${first.id}/look`;
      // a browser that opens nothing by itself gets the address to open
      if (!window.open(address, "_blank"))
        void message.info(
          <a href={address} target="_blank" rel="noreferrer">
            {texts.open} {first.name}
          </a>,
          12,
        );
    }
    before.current = issue.state;
  }, [issue.state, issue.id, first, opens, message]);
  const busy = issue.pages.filter((page) => page.state !== "ready");
  return (
    <li className={`issue ${issue.state}`} data-issue={issue.id}>
      <strong>
        {issue.purpose}
        {issue.revision && texts.revision(issue.revision)}
      </strong>
      <em>{stateOf(issue)}</em>
      <span className="soft small">
        {dayOf(issue.began)} · {issue.recipe}
        {issue.note && ` · ${issue.note}`}
      </span>
      {issue.state === "running" && (
        <>
          <Progress size="small" percent={Math.round(issue.share * 100)} status="active" />
          <ul className="pages-progress">
            {issue.pages.map((page) => (
              <li key={page.name}>
                {page.name} <span className="soft">{page.state === "ready" ? "ready" : page.text || page.state}</span>
              </li>
            ))}
          </ul>
          {!busy.length && <span className="soft small">{texts.joiningAndMeasuring}</span>}
          <span className="layer-acts">
            <button type="button" onClick={() => act.mutate({ issue: issue.id, act: "cancel" })}>
              {texts.cancel}
            </button>
          </span>
        </>
      )}
      {issue.error && <span className="over small">{issue.error}</span>}
      {issue.state === "asking" && (
        <span className="layer-acts">
          <button type="button" onClick={() => act.mutate({ issue: issue.id, act: "accept" })}>
            {texts.issueAllTheSame}
          </button>
          <button type="button" onClick={() => act.mutate({ issue: issue.id, act: "cancel" })}>
            {texts.cancelThisIssue}
          </button>
        </span>
      )}
      {(issue.state === "failed" || issue.state === "cancelled") && (
        <span className="layer-acts">
          <button type="button" onClick={() => act.mutate({ issue: issue.id, act: "retry" })}>
            {texts.tryAgain}
          </button>
        </span>
      )}
      {issue.files.map((file) => (
        <span key={file.id} className="file">
          <a href={`/api/issues/${issue.id}/files/${file.id}`} download>
            {file.name}
          </a>
          <Link className="small" to={`/register/${issue.id}/${file.id}`}>
            {texts.toProof}
          </Link>
          <span className="soft small">
            {file.pages === 1 ? texts.n1Page : texts.pages(file.pages)}, {sizeOf(file.size)} ·{" "}
            <b className={file.holds ? "holds" : "fails"}>{file.holds ? texts.allChecksPass : texts.issuedWithAFailingCheck}</b>
          </span>
        </span>
      ))}
      {issue.files.length > 1 && <a href={`/api/issues/${issue.id}/files.zip`}>{texts.allAsZip}</a>}
    </li>
  );
}

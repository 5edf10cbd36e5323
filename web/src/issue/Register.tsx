import { Button, Input, Select } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { useIssueAct, useIssues, useRecipes } from "../api/output";
import { dayOf } from "../common/dates";
import { sizeOf, stateOf } from "./IssueRow";
import { RegisterHead } from "./RegisterHead";
import * as texts from "./texts";

/** All that ever went out, of all jobs. */
export function Register() {
  const [text, setText] = useState("");
  const [purpose, setPurpose] = useState("");
  const { data: issues } = useIssues({ text, purpose });
  const { data: list } = useRecipes();
  const act = useIssueAct();
  const query = new URLSearchParams({ text, purpose }).toString();
  return (
    <main className="register">
      <RegisterHead title={texts.registerOfIssues} under={texts.everyFileThatWasIssued}>
        <Input
          allowClear
          aria-label={texts.findAnIssue}
          placeholder={texts.findJobPackRevisionNote}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <Select
          aria-label={texts.purpose}
          value={purpose}
          options={[{ value: "", label: texts.forAnyPurpose }, ...(list?.purposes ?? []).map((value) => ({ value, label: value }))]}
          onChange={setPurpose}
        />
        <Button href={`/api/issues/register.csv?${query}`}>{texts.saveAsCsv}</Button>
      </RegisterHead>
      <table>
        <thead>
          <tr>
            <th>{texts.no}</th>
            <th>{texts.issued}</th>
            <th>{texts.job}</th>
            <th>{texts.pack}</th>
            <th>{texts.purpose}</th>
            <th>{texts.rev}</th>
            <th>{texts.recipe}</th>
            <th>{texts.files}</th>
          </tr>
        </thead>
        <tbody>
          {issues?.map((issue) => (
            <tr key={issue.id} data-issue={issue.id}>
              <td>{issue.id}</td>
              <td>
                {dayOf(issue.began)}
                <small className="soft">{stateOf(issue)}</small>
              </td>
              <td>
                <Link to={`/jobs/${issue.job}/issue?pack=${issue.pack_id}`}>{issue.job_name}</Link>
                <small className="soft">
                  {texts.job2} {issue.job_number}
                </small>
              </td>
              <td>
                {issue.pack}
                <small className="soft">{issue.sheets.join(", ")}</small>
              </td>
              <td>
                {issue.purpose}
                {issue.note && <small className="soft">{issue.note}</small>}
              </td>
              <td>{issue.revision || "–"}</td>
              <td>
                {issue.recipe}
                <small className="soft">
                  {texts.version} {issue.recipe_version}
                </small>
              </td>
              <td>
                {issue.files.map((file) => (
                  <span key={file.id} className="file">
                    <a href={`/api/issues/${issue.id}/files/${file.id}`} download>
                      {file.name}
                    </a>{" "}
                    <Link to={`/register/${issue.id}/${file.id}`}>{texts.toProof}</Link>
                    <small className="soft" title={`SHA-256 ${file.hash}`}>
                      {sizeOf(file.size)} · {file.holds ? texts.allChecksPass : <b className="fails">{texts.issuedWithAFailingCheck}</b>} ·{" "}
                      {file.hash.slice(0, 10)}…
                    </small>
                  </span>
                ))}
                {issue.files.length > 1 && <a href={`/api/issues/${issue.id}/files.zip`}>{texts.allAsZip}</a>}
                {(issue.state === "failed" || issue.state === "cancelled") && (
                  <button type="button" className="as-file" onClick={() => act.mutate({ issue: issue.id, act: "retry" })}>
                    {texts.tryAgain2}
                  </button>
                )}
                {issue.state === "running" && <span className="soft">{Math.round(issue.share * 100)} %</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {issues && !issues.length && <p className="soft">{text || purpose ? texts.noIssueIsLikeThat : texts.nothingHasBeenIssuedYet}</p>}
    </main>
  );
}

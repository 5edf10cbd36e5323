import { Button, Input, Select } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { useIssueAct, useIssues, useRecipes } from "../api/output";
import { dayOf, sizeOf, stateOf } from "./IssueRow";

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
      <header>
        <Link to="/" className="home" aria-label="All jobs">
          <img src="/mark.svg" alt="" width={26} height={26} />
        </Link>
        <div>
          <h1>Register of issues</h1>
          <p className="soft">every file that was issued, byte for byte</p>
        </div>
        <span className="spring" />
        <Input allowClear aria-label="Find an issue" placeholder="Find: job, pack, revision, note, file" value={text} onChange={(event) => setText(event.target.value)} />
        <Select aria-label="Purpose" value={purpose} options={[{ value: "", label: "for any purpose" }, ...(list?.purposes ?? []).map((value) => ({ value, label: value }))]} onChange={setPurpose} />
        <Button href={`/api/issues/register.csv?${query}`}>Save as CSV</Button>
      </header>
      <table>
        <thead>
          <tr>
            <th>No.</th>
            <th>Issued</th>
            <th>Job</th>
            <th>Pack</th>
            <th>Purpose</th>
            <th>Rev.</th>
            <th>Recipe</th>
            <th>Files</th>
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
                <small className="soft">job {issue.job_number}</small>
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
                <small className="soft">version {issue.recipe_version}</small>
              </td>
              <td>
                {issue.files.map((file) => (
                  <span key={file.id} className="file">
                    <a href={`/api/issues/${issue.id}/files/${file.id}`} download>
                      {file.name}
                    </a>
                    <small className="soft" title={`SHA-256 ${file.hash}`}>
                      {sizeOf(file.size)} · {file.holds ? "all checks pass" : <b className="fails">issued with a failing check</b>} · {file.hash.slice(0, 10)}…
                    </small>
                  </span>
                ))}
                {(issue.state === "failed" || issue.state === "cancelled") && (
                  <button type="button" className="as-file" onClick={() => act.mutate({ issue: issue.id, act: "retry" })}>
                    try again
                  </button>
                )}
                {issue.state === "running" && <span className="soft">{Math.round(issue.share * 100)} %</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {issues && !issues.length && <p className="soft">{text || purpose ? "No issue is like that." : "Nothing has been issued yet: make a pack in a job, and issue it."}</p>}
    </main>
  );
}

import { Input, Progress, Table } from "antd";
import { useState } from "react";
import { dayOf } from "../common/dates";
import { useReleaseAct, useReleaseFiles, useReleases, type Release, type ReleaseFile } from "../api/release";
import { Note } from "../ticket/Ticket";
import { ended, total } from "./counts";
import * as texts from "./texts";

const PAGE = 100;
const STATES = ["waiting", "working", "made", "kept", "failed", "cancelled"] as const;

function FileState({ release, file }: { release: Release; file: ReleaseFile }) {
  const act = useReleaseAct();
  return (
    <span className={`file-state ${file.state}`}>
      {file.state === "working" && file.share > 0 ? `${texts.fileStates[file.state]}, ${Math.round(file.share * 100)} %` : texts.fileStates[file.state]}
      {file.error && <small className="over">{file.error}</small>}
      {(file.state === "failed" || file.state === "cancelled") && (
        <button type="button" className="as-file" onClick={() => act.mutate({ release: release.id, file: file.id, act: "retry" })}>
          {texts.retry}
        </button>
      )}
      {file.state === "waiting" && (
        <button type="button" className="as-file" onClick={() => act.mutate({ release: release.id, file: file.id, act: "first" })}>
          {texts.first}
        </button>
      )}
    </span>
  );
}

function Files({ release, height }: { release: Release; height: number }) {
  const [state, setState] = useState("");
  const [text, setText] = useState("");
  const [page, setPage] = useState(1);
  const { data } = useReleaseFiles(release, state, text, (page - 1) * PAGE, PAGE);
  return (
    <>
      <header>
        <Input
          allowClear
          aria-label={texts.findFile}
          placeholder={texts.findFile}
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            setPage(1);
          }}
        />
        <select
          aria-label={texts.stateShown}
          value={state}
          onChange={(event) => {
            setState(event.target.value);
            setPage(1);
          }}
        >
          <option value="">{texts.anyState}</option>
          {STATES.filter((own) => release.counts[own]).map((own) => (
            <option key={own} value={own}>
              {texts.fileStates[own]} ({release.counts[own]})
            </option>
          ))}
        </select>
      </header>
      <Table
        virtual
        size="small"
        rowKey="id"
        dataSource={data?.files ?? []}
        scroll={{ y: Math.max(120, height), x: 760 }}
        pagination={(data?.count ?? 0) > PAGE ? { current: page, pageSize: PAGE, total: data?.count ?? 0, onChange: setPage, showSizeChanger: false } : false}
        columns={[
          {
            title: texts.path,
            dataIndex: "path",
            width: 330,
            render: (path: string, file) =>
              file.state === "made" || file.state === "kept" ? <a href={`/api/releases/${release.id}/files/${file.id}/content`}>{path}</a> : path,
          },
          { title: texts.kind, dataIndex: "kind", width: 130 },
          {
            title: texts.state,
            width: 240,
            render: (_, file) => <FileState release={release} file={file} />,
          },
          {
            title: texts.log,
            width: 60,
            render: (_, file) => file.log && <span title={file.log}>{file.about.size ? texts.size(file.about.size) : "…"}</span>,
          },
        ]}
      />
    </>
  );
}

/** The releases of a job, and the files of one, as they are made. */
export function Queue({ job, height }: { job: number; height: number }) {
  const { data: releases } = useReleases(job);
  const [chosen, setChosen] = useState<number | null>(null);
  const act = useReleaseAct();
  const release = releases?.find((own) => own.id === chosen) ?? releases?.[0];
  if (!releases) return null;
  if (!release) return <p className="soft">{texts.noReleases}</p>;
  const open = release.state === "running" || release.state === "paused";
  const failed = (release.counts.failed ?? 0) + (release.counts.cancelled ?? 0);
  return (
    <div className="release-queue">
      <header>
        <select aria-label={texts.queue} value={release.id} onChange={(event) => setChosen(Number(event.target.value))}>
          {releases.map((own) => (
            <option key={own.id} value={own.id}>
              {texts.releaseNo(own.id)}, {dayOf(own.began)}
            </option>
          ))}
        </select>
        <span role="status">
          {texts.stateWords[release.state]} · {texts.ofRules(release.rules, release.rules_version)}
          {release.person && ` · ${texts.by(release.person)}`}
          {release.left !== null && release.left !== undefined && open && ` · ${texts.secondsLeft(release.left)}`}
        </span>
        <span className="layer-acts">
          {release.state === "running" && (
            <button type="button" onClick={() => act.mutate({ release: release.id, act: "pause" })}>
              {texts.pause}
            </button>
          )}
          {release.state === "paused" && (
            <button type="button" onClick={() => act.mutate({ release: release.id, act: "resume" })}>
              {texts.resume}
            </button>
          )}
          {open && (
            <button type="button" onClick={() => act.mutate({ release: release.id, act: "cancel" })}>
              {texts.cancel}
            </button>
          )}
          {!open && failed > 0 && (
            <button type="button" onClick={() => act.mutate({ release: release.id, act: "retry" })}>
              {texts.retry}
            </button>
          )}
          {!open && <a href={`/api/releases/${release.id}/files.zip`}>{texts.asZip}</a>}
        </span>
      </header>
      <Progress
        percent={Math.round((100 * ended(release)) / Math.max(1, total(release)))}
        status={failed ? "exception" : release.state === "running" ? "active" : "normal"}
        format={() => texts.progress(ended(release), total(release))}
      />
      {release.error && <Note tone="error" title={release.error} />}
      <Files key={release.id} release={release} height={height - 190} />
    </div>
  );
}

import { Table } from "antd";
import { useMemo, useState } from "react";
import type { Job } from "../api/client";
import { useParts } from "../api/parts";
import { STATES, useNextRevision, useSetState, useStateLog, useStates, type State } from "../api/release";
import * as texts from "./texts";

export interface SubjectRow {
  subject: string;
  kind: string;
  mark: string;
  name: string;
  revision: string;
}

/** All parts and sheets of a job, as states and releases call them. */
export function useSubjects(job: Job): SubjectRow[] {
  const { data } = useParts(job);
  return useMemo(
    () => [
      ...job.document.sheets.map((sheet) => ({
        subject: `sheet:${sheet.id}`,
        kind: texts.sheet,
        mark: data?.rows.find((row) => row.key === sheet.made_for?.part)?.mark ?? "",
        name: sheet.name,
        revision: sheet.title.revision ?? "",
      })),
      ...(data?.rows ?? []).map((row) => ({ subject: `part:${row.key}`, kind: row.kind, mark: row.mark, name: row.name, revision: row.revision })),
    ],
    [job.document.sheets, data],
  );
}

interface Props {
  job: Job;
  height: number;
  chosen: readonly string[];
  onChosen: (subjects: string[]) => void;
  rules: string;
  note: string;
}

/** The states of parts and sheets; those that are ticked are set together. */
export function StatesTable({ job, height, chosen, onChosen, rules, note }: Props) {
  const rows = useSubjects(job);
  const { data: states } = useStates(job.id);
  const [logged, setLogged] = useState(false);
  const { data: log } = useStateLog(job.id, logged);
  const [too, setToo] = useState(true);
  const set = useSetState(job.id);
  const revise = useNextRevision(job.id);
  const go = (state: State) => set.mutate({ subjects: [...chosen], state, note, rules: state === "released" && too ? rules : "" });
  const called = (subject: string) => rows.find((row) => row.subject === subject)?.name ?? subject.split(":").slice(1).join(":");
  return (
    <div className="release-states">
      <header>
        {chosen.length === 0 ? (
          <span className="soft">{texts.selectToSet}</span>
        ) : (
          <>
            <span>
              {texts.ofSelected(chosen.length)} · {texts.setTo}
            </span>
            <span className="chips">
              {STATES.map((state) => (
                <button key={state} type="button" disabled={set.isPending} onClick={() => go(state)}>
                  {state}
                </button>
              ))}
            </span>
            <label>
              <input type="checkbox" checked={too} onChange={(event) => setToo(event.target.checked)} /> {texts.releaseThem}
            </label>
            <span className="layer-acts">
              <button type="button" disabled={revise.isPending} onClick={() => revise.mutate({ subjects: [...chosen], note })}>
                {texts.nextRevision}
              </button>
            </span>
          </>
        )}
        <span className="layer-acts">
          <button type="button" aria-pressed={logged} onClick={() => setLogged(!logged)}>
            {texts.logOfStates}
          </button>
        </span>
      </header>
      {logged ? (
        <ul className="state-log" aria-label={texts.logOfStates}>
          {(log ?? []).map((row, index) => (
            <li key={index}>
              <span className="soft">{new Date(row.made).toLocaleString()}</span> {called(row.subject)} · {row.state} {row.revision}
              {row.person && ` · ${row.person}`} {row.note && <small className="soft">{row.note}</small>}
            </li>
          ))}
        </ul>
      ) : (
        <Table
          virtual
          size="small"
          rowKey="subject"
          pagination={false}
          dataSource={rows}
          scroll={{ y: Math.max(120, height - 150), x: 760 }}
          rowSelection={{
            selectedRowKeys: [...chosen],
            onChange: (keys) => onChosen(keys.map(String)),
            columnWidth: 40,
            getCheckboxProps: (row) => ({ "aria-label": texts.choose(row.name) }),
          }}
          columns={[
            { title: texts.what, dataIndex: "kind", width: 110 },
            { title: texts.mark, dataIndex: "mark", width: 80 },
            { title: texts.name, dataIndex: "name", width: 220, ellipsis: true },
            { title: texts.revision, dataIndex: "revision", width: 60 },
            {
              title: texts.state,
              width: 110,
              render: (_, row) => {
                const state = states?.get(row.subject)?.state ?? "in work";
                return <span className={`part-state ${state.replace(" ", "-")}`}>{state}</span>;
              },
            },
            {
              title: texts.since,
              width: 180,
              render: (_, row) => {
                const line = states?.get(row.subject);
                return line && `${new Date(line.made).toLocaleDateString()}${line.person ? ` · ${line.person}` : ""}`;
              },
            },
          ]}
        />
      )}
    </div>
  );
}

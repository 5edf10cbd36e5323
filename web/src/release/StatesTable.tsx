import { Input, Table } from "antd";
import { useMemo, useState } from "react";
import { dayOf } from "../common/dates";
import type { Job } from "../api/client";
import { useParts } from "../api/parts";
import { STATES, useSetState, useStateLog, type State } from "../api/release";
import { useNextRevision, useStates } from "../api/states";
import * as texts from "./texts";

export interface SubjectRow {
  /** What is set together: a part and its drawing, or the one of both that there is. */
  subjects: readonly string[];
  part?: string;
  sheet?: string;
  kind: string;
  mark: string;
  name: string;
  revision: string;
}

/** All parts and sheets of a job, as states and releases call them: a part and the sheet that was made for it are one row. */
export function useSubjects(job: Job): SubjectRow[] {
  const { data } = useParts(job);
  return useMemo(() => {
    const drawn = new Map(job.document.sheets.flatMap((sheet) => (sheet.made_for ? [[sheet.made_for.part, sheet] as const] : [])));
    const rows: SubjectRow[] = (data?.rows ?? []).map((row) => {
      const sheet = [row.key, ...row.elsewhere.map((own) => own.key)].map((key) => drawn.get(key)).find(Boolean);
      const part = `part:${row.key}`;
      const own = { kind: row.kind, mark: row.mark, name: row.name, revision: row.revision };
      return sheet ? { ...own, part, sheet: `sheet:${sheet.id}`, subjects: [part, `sheet:${sheet.id}`] } : { ...own, part, subjects: [part] };
    });
    const taken = new Set(rows.map((row) => row.sheet));
    const alone = job.document.sheets.filter((sheet) => !taken.has(`sheet:${sheet.id}`));
    return [
      ...alone.map((sheet) => ({
        subjects: [`sheet:${sheet.id}`],
        sheet: `sheet:${sheet.id}`,
        kind: texts.sheet,
        mark: "",
        name: sheet.name,
        revision: sheet.title.revision ?? "",
      })),
      ...rows,
    ];
  }, [job.document.sheets, data]);
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
  const [words, setWords] = useState("");
  const [wanted, setWanted] = useState<State | "">("");
  const stateOf = (subject: string | undefined): State | "" => (subject ? ((states?.get(subject)?.state as State) ?? "in work") : "");
  const shown = useMemo(() => {
    const all = words.toLowerCase().split(/\s+/).filter(Boolean);
    return rows.filter((row) => all.every((word) => `${row.kind} ${row.mark} ${row.name}`.toLowerCase().includes(word)));
  }, [rows, words]).filter((row) => !wanted || row.subjects.some((own) => stateOf(own) === wanted));
  const called = (subject: string) => rows.find((row) => row.subjects.includes(subject))?.name ?? subject.split(":").slice(1).join(":");
  const badge = (subject: string | undefined) => {
    const state = stateOf(subject);
    return state && <span className={`part-state ${state.replace(" ", "-")}`}>{state}</span>;
  };
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
        <Input
          allowClear
          size="small"
          aria-label={texts.findSubject}
          placeholder={texts.findSubject}
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
        <select aria-label={texts.state} value={wanted} onChange={(event) => setWanted(event.target.value as State | "")}>
          <option value="">{texts.anyState}</option>
          {STATES.map((own) => (
            <option key={own}>{own}</option>
          ))}
        </select>
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
              <span className="soft">{dayOf(row.made)}</span> {called(row.subject)} · {row.state} {row.revision}
              {row.person && ` · ${row.person}`} {row.note && <small className="soft">{row.note}</small>}
            </li>
          ))}
        </ul>
      ) : (
        <Table
          virtual
          size="small"
          rowKey={(row) => row.subjects.join(" ")}
          pagination={false}
          dataSource={shown}
          locale={{ emptyText: texts.noSubject }}
          scroll={{ y: Math.max(120, height - 150), x: 760 }}
          rowSelection={{
            selectedRowKeys: rows.filter((row) => row.subjects.every((own) => chosen.includes(own))).map((row) => row.subjects.join(" ")),
            preserveSelectedRowKeys: true,
            onChange: (keys) => onChosen(rows.filter((row) => keys.includes(row.subjects.join(" "))).flatMap((row) => row.subjects)),
            columnWidth: 40,
            getCheckboxProps: (row) => ({ "aria-label": texts.choose(row.name) }),
          }}
          columns={[
            { title: texts.what, dataIndex: "kind", width: 110 },
            { title: texts.mark, dataIndex: "mark", width: 80 },
            { title: texts.name, dataIndex: "name", width: 220, ellipsis: true },
            { title: texts.revision, dataIndex: "revision", width: 60 },
            { title: texts.statePart, width: 100, render: (_, row) => badge(row.part) },
            { title: texts.stateDrawing, width: 100, render: (_, row) => badge(row.sheet) },
            {
              title: texts.since,
              width: 180,
              render: (_, row) => {
                const line = row.subjects.map((own) => states?.get(own)).sort((a, b) => (b?.made ?? "").localeCompare(a?.made ?? ""))[0];
                return line && `${dayOf(line.made)}${line.person ? ` · ${line.person}` : ""}`;
              },
            },
          ]}
        />
      )}
    </div>
  );
}

import { App, Button, Input, Select, Table, type TableColumnsType } from "antd";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { said } from "../api/client";
import { useNews } from "../api/news";
import {
  drawingKeys,
  useDrawings,
  useProofDrawings,
  useProofsWanted,
  type Drawing,
  type NamedDrawing,
  type SortedBy,
  type Standing,
  type Wanted,
} from "../api/register";
import { STATES, type State } from "../api/release";
import { useRoom } from "../common/useRoom";
import { dayOf } from "../common/dates";
import { RegisterHead } from "../issue/RegisterHead";
import { Note } from "../ticket/Ticket";
import { IssueDialog } from "./IssueDialog";
import { chosenOf, keyOf } from "./keys";
import { PrintDialog } from "./PrintDialog";
import "./register.css";
import * as texts from "./texts";

const PAGE = 200;
const STANDINGS: readonly Standing[] = ["never proofed", "changed since proof", "never issued", "changed since issue", "never released"];

function Since({ at, changed, to, told }: { at: string | null | undefined; changed: boolean | null | undefined; to?: string; told?: string | undefined }) {
  if (!at) return <span className="soft">{texts.never}</span>;
  return (
    <>
      {to ? <Link to={to}>{dayOf(at)}</Link> : dayOf(at)}
      {told && <small className="soft">{told}</small>}
      {changed && <small className="over">{texts.changedSince}</small>}
    </>
  );
}

const text = (title: string, by: SortedBy, width: number) => ({
  title,
  key: by,
  width,
  ellipsis: true,
  sorter: true,
  render: (_: unknown, row: Drawing) => row.about[by as keyof Drawing["about"]],
});

const COLUMNS: TableColumnsType<Drawing> = [
  {
    title: texts.job,
    key: "job",
    width: 146,
    ellipsis: true,
    sorter: true,
    render: (_, row) => (
      <Link to={`/jobs/${row.job}/sheets`} title={row.job_name}>
        {row.job_number} {row.job_name}
      </Link>
    ),
  },
  {
    title: texts.sheet,
    key: "name",
    width: 140,
    ellipsis: true,
    sorter: true,
    render: (_, row) => (
      <Link to={`/jobs/${row.job}/sheets/${row.sheet}`} title={row.about.name}>
        {row.about.name}
      </Link>
    ),
  },
  text(texts.mark, "mark", 64),
  text(texts.number, "number", 88),
  text(texts.title, "title", 140),
  text(texts.rev, "revision", 58),
  {
    title: texts.format,
    key: "format",
    width: 84,
    ellipsis: true,
    sorter: true,
    render: (_, row) => row.about.format.replace("mm", ""),
  },
  text(texts.scale, "scale", 84),
  { title: texts.state, key: "state", width: 84, sorter: true, dataIndex: "state" },
  {
    title: texts.lastProof,
    key: "proofed",
    width: 146,
    sorter: true,
    render: (_, row) => <Since at={row.proofed} changed={row.changed_since_proof} to={`/jobs/${row.job}/proof/${row.sheet}`} />,
  },
  {
    title: texts.lastIssue,
    key: "issued",
    width: 150,
    sorter: true,
    render: (_, row) => (
      <Since
        at={row.issued}
        changed={row.changed_since_issue}
        told={row.issue ? `${row.purpose}${row.issued_revision && `, ${texts.rev} ${row.issued_revision}`}` : undefined}
      />
    ),
  },
  {
    title: texts.lastRelease,
    key: "released",
    width: 190,
    sorter: true,
    render: (_, row) => (
      <Since
        at={row.released}
        changed={false}
        to={`/jobs/${row.job}/release`}
        told={row.release ? `${row.released_revision && `${texts.rev} ${row.released_revision}, `}${row.released_file}` : undefined}
      />
    ),
  },
];
const WIDTH = COLUMNS.reduce((sum, column) => sum + Number(column.width), 40);

/** The sheets of all jobs: found, sorted, and many proofed, issued or printed at once. */
export function DrawingsPage() {
  useNews();
  const [wanted, setWanted] = useState<Wanted>({ text: "", by: "job" });
  const [page, setPage] = useState(1);
  const [chosen, setChosen] = useState<NamedDrawing[]>([]);
  const [open, setOpen] = useState<"issue" | "print" | null>(null);
  const { data, error } = useDrawings(wanted, (page - 1) * PAGE, PAGE);
  const { data: proofs } = useProofsWanted();
  const proof = useProofDrawings();
  const { message } = App.useApp();
  const element = useRef<HTMLDivElement>(null);
  const { height } = useRoom(element);
  const set = (fields: Partial<Wanted>) => {
    setWanted({ ...wanted, ...fields });
    setPage(1);
  };
  const query = new URLSearchParams(Object.entries(wanted).flatMap(([name, value]) => (value ? [[name, String(value)]] : []))).toString();
  const all = () =>
    drawingKeys(wanted).then(
      (keys) => setChosen(keys),
      (problem: Error) => void message.error(said(problem)),
    );
  return (
    <main className="register drawings">
      <RegisterHead title={texts.registerOfDrawings} under={texts.allSheets}>
        <Input allowClear aria-label={texts.find} placeholder={texts.findDrawing} value={wanted.text} onChange={(event) => set({ text: event.target.value })} />
        <Select<State | "">
          aria-label={texts.state}
          value={wanted.state ?? ""}
          options={[{ value: "", label: texts.anyState }, ...STATES.map((value) => ({ value, label: value }))]}
          onChange={(state) => set({ state: state || undefined })}
        />
        <Select
          aria-label={texts.standing}
          value={wanted.standing ?? ""}
          options={[{ value: "", label: texts.anyStanding }, ...STANDINGS.map((value) => ({ value, label: value }))]}
          onChange={(standing) => set({ standing })}
        />
        <Button href={`/api/drawing-register.csv?${query}`}>{texts.asCsv}</Button>
        <Button href={`/api/drawing-register.xlsx?${query}`}>{texts.asWorkbook}</Button>
      </RegisterHead>
      <p className="layer-acts chosen" role="status">
        {chosen.length > 0 && (
          <>
            <strong>{texts.selected(chosen.length)}</strong>
            <button type="button" disabled={proof.isPending} onClick={() => proof.mutate(chosen.map(({ job, sheet }) => ({ job, sheet })))}>
              {texts.proof}
            </button>
            <button type="button" onClick={() => setOpen("issue")}>
              {texts.issue}
            </button>
            <button type="button" onClick={() => setOpen("print")}>
              {texts.print}
            </button>
            <button type="button" onClick={() => setChosen([])}>
              {texts.selectNone}
            </button>
          </>
        )}
        {!!data?.count && chosen.length < data.count && (
          <button type="button" onClick={() => void all()}>
            {texts.selectAll(data.count)}
          </button>
        )}
        {!!proofs?.left && <span className="soft">{texts.proofing(proofs.left)}</span>}
      </p>
      {error && <Note tone="error" title={said(error)} />}
      {proofs?.failed.map((line) => (
        <Note key={line} tone="error" title={line} />
      ))}
      <div className="register-rows" ref={element}>
        <Table
          virtual
          size="small"
          rowKey={keyOf}
          aria-label={texts.registerOfDrawings}
          columns={COLUMNS}
          dataSource={[...(data?.rows ?? [])]}
          showSorterTooltip={false}
          scroll={{ y: Math.max(120, height - ((data?.count ?? 0) > PAGE ? 96 : 40)), x: WIDTH }}
          locale={{ emptyText: texts.noneFound }}
          pagination={(data?.count ?? 0) > PAGE ? { current: page, pageSize: PAGE, total: data?.count ?? 0, showSizeChanger: false } : false}
          onChange={(pages, _, sorter) => {
            const one = Array.isArray(sorter) ? sorter[0] : sorter;
            const by = one?.order ? (one.columnKey as SortedBy) : "job";
            const down = one?.order === "descend";
            const again = by !== (wanted.by ?? "job") || down !== !!wanted.down;
            if (again) set({ by, down });
            else setPage(pages.current ?? 1);
          }}
          rowSelection={{
            selectedRowKeys: chosen.map(keyOf),
            preserveSelectedRowKeys: true,
            onChange: (keys) => setChosen(chosenOf(keys.map(String), chosen, data?.rows ?? [])),
            columnWidth: 40,
            getCheckboxProps: (row) => ({ "aria-label": texts.chooseDrawing(row.about.name, row.job_name) }),
          }}
        />
      </div>
      {open === "issue" && <IssueDialog drawings={chosen} close={() => setOpen(null)} />}
      {open === "print" && <PrintDialog drawings={chosen} close={() => setOpen(null)} />}
    </main>
  );
}

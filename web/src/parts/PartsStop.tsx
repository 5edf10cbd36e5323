import { Button, Input } from "antd";
import { useEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { said } from "../api/client";
import { usePartPictures } from "../api/metal";
import { KINDS, useParts, type PartRow } from "../api/parts";
import { useCommands } from "../common/commands";
import { useRoom } from "../common/useRoom";
import { MainAct, useOpenJob } from "../shell/JobFrame";
import { Note, Ticket } from "../ticket/Ticket";
import { FieldsDialog } from "./FieldsDialog";
import { MarksDialog } from "./MarksDialog";
import { PartsTable } from "./PartsTable";
import { PartTicket } from "./PartTicket";
import { TableDialog } from "./TableDialog";
import "./parts.css";
import * as texts from "./texts";

/** The head of the table and the bar above it take so much of the height, px. */
const TAKEN = 120;

const said_of = (row: PartRow) =>
  [row.mark, row.name, row.number, row.material, row.description, row.kind, ...Object.values(row.fields)].join(" ").toLowerCase();

const isAt = (row: PartRow, source: string | null, component: string) =>
  row.source === source ? row.components.includes(component) : row.elsewhere.some((own) => own.source === source && own.component === component);

/** The Parts stop: every distinct part of the job, what is said of it, and its mark. */
export function PartsStop() {
  const job = useOpenJob();
  const { data, error } = useParts(job);
  const [words, setWords] = useState("");
  const [kind, setKind] = useState("");
  const [asked, ask] = useSearchParams();
  const [chosen, setChosen] = useState<string[]>([]);
  const [open, setOpen] = useState<"marks" | "table" | "fields" | null>(asked.has("marks") ? "marks" : null);
  const element = useRef<HTMLDivElement>(null);
  const { height } = useRoom(element);
  const rows = useMemo(() => data?.rows ?? [], [data]);
  const shown = useMemo(() => {
    const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
    return rows.filter((row) => (!kind || row.kind === kind) && wanted.every((word) => said_of(row).includes(word)));
  }, [rows, words, kind]);
  // a part that was selected in 3D is selected here
  const [source, component] = [asked.get("source"), asked.get("component")];
  const wanted = component && rows.find((row) => isAt(row, source, component));
  useEffect(() => {
    if (!wanted) return;
    setChosen([wanted.key]);
    ask({}, { replace: true });
  }, [wanted, ask]);
  const pictureOf = usePartPictures(useMemo(() => [...new Set(rows.map((row) => row.source))], [rows]));
  const oppositeOf = (row: PartRow) => {
    const other = rows.find((own) => own.key === row.opposite);
    return texts.oppositeHandOf(other?.mark || other?.name || row.opposite);
  };
  const selected = rows.filter((row) => chosen.includes(row.key));
  const save = () => window.location.assign(`/api/jobs/${job.id}/parts.csv`);
  const pieces = rows.filter((row) => row.kind !== "assembly").reduce((sum, row) => sum + row.quantity, 0);
  const title = selected.length === 1 ? selected[0]!.name : selected.length ? texts.selected(selected.length) : texts.partsWord;
  useCommands("parts", [
    { id: "marks", title: texts.giveMarks, key: "M", run: () => setOpen("marks") },
    { id: "table", title: texts.takeATable, run: () => setOpen("table") },
    { id: "fields", title: texts.fieldsAndSeries, run: () => setOpen("fields") },
    ...(selected.length ? [{ id: "deselect", title: texts.selectNothing, key: "Escape", run: () => setChosen([]) }] : []),
    { id: "csv", title: texts.saveAsCsv, run: save },
  ]);
  return (
    <div className="desk-row parts-stop">
      <MainAct>
        <Button type="primary" disabled={!rows.length || !!(data?.work && data.work.state !== "failed")} onClick={() => setOpen("marks")}>
          {texts.giveMarks}
        </Button>
      </MainAct>
      <div className="parts-desk" ref={element}>
        <header>
          <Input allowClear aria-label={texts.find} placeholder={texts.findPlaceholder} value={words} onChange={(event) => setWords(event.target.value)} />
          <select aria-label={texts.kindShown} value={kind} onChange={(event) => setKind(event.target.value)}>
            <option value="">{texts.anyKind}</option>
            {KINDS.map((own) => (
              <option key={own}>{own}</option>
            ))}
          </select>
          <span className="layer-acts">
            <button type="button" onClick={() => setOpen("fields")}>
              {texts.fieldsAndSeries}
            </button>
            <button type="button" onClick={() => setOpen("table")}>
              {texts.takeATable}
            </button>
            <button type="button" onClick={save}>
              {texts.saveAsCsv}
            </button>
          </span>
        </header>
        {error && <Note tone="error" title={said(error)} />}
        {data?.work && <p className="soft small">{data.work.error || `${texts.lookingAtTheParts} (${Math.round(data.work.share * 100)} %)`}</p>}
        {data && !rows.length && <p className="soft">{texts.noParts}</p>}
        {rows.length > 0 && (
          <PartsTable
            rows={shown}
            own={job.document.own_fields}
            height={Math.max(120, height - TAKEN)}
            chosen={chosen}
            onChosen={setChosen}
            pictureOf={(row) => pictureOf(row.source, row.component)}
            oppositeOf={oppositeOf}
          />
        )}
      </div>
      <Ticket title={title} under={selected.length === 1 ? selected[0]!.mark : texts.allOf(rows.length, pieces)}>
        {selected.length ? <PartTicket key={chosen.join("\n")} job={job} rows={selected} all={rows} /> : <p className="soft">{texts.nothingSelected}</p>}
      </Ticket>
      {open === "marks" && <MarksDialog job={job} close={() => setOpen(null)} />}
      {open === "table" && <TableDialog job={job} close={() => setOpen(null)} />}
      {open === "fields" && <FieldsDialog job={job} close={() => setOpen(null)} />}
    </div>
  );
}

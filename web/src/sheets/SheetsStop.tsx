import { Button } from "antd";
import { useEffect, useState } from "react";
import { Link, Navigate, useNavigate, useParams, useSearchParams } from "react-router";
import type { Job, Sheet, Trade, View } from "../api/client";
import { useEdit, usePicture, useTrade } from "../api/queries";
import { isTyping, useCommands } from "../shell/commands";
import { MainAct, useOpenJob } from "../shell/JobFrame";
import { ComponentsPicker } from "./ComponentsPicker";
import { Desk } from "./Desk";
import { boxOf, paperOf } from "./geometry";
import { SheetStrip } from "./SheetStrip";
import { SheetTicket } from "./SheetTicket";
import { ViewTicket } from "./ViewTicket";

const ARROWS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

/** Arrow keys move the selected view by 1 mm, with Alt by 0.1 mm. */
function useNudge(view: View | null, move: (by: [number, number]) => void) {
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      const arrow = ARROWS[event.key];
      if (!view || !arrow || isTyping(event.target)) return;
      event.preventDefault();
      const step = event.altKey ? 0.1 : 1;
      move([arrow[0] * step, arrow[1] * step]);
    };
    window.addEventListener("keydown", hear);
    return () => window.removeEventListener("keydown", hear);
  }, [view, move]);
}

function OpenSheet({ job, sheet, trade }: { job: Job; sheet: Sheet; trade: Trade }) {
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const edit = useEdit(job.id);
  const [choosing, setChoosing] = useState(false);
  const view = sheet.views?.find((v) => v.id === search.get("view")) ?? null;
  const { data } = usePicture(job.id, sheet.id, view);
  const select = (id: string | null) => {
    if (id !== search.get("view")) setSearch(id ? { view: id } : {}, { replace: true });
  };
  const change = (fields: Partial<View>) => view && edit.mutate({ kind: "change_view", sheet: sheet.id, view: view.id, fields });
  const place = (moved: View, to: [number, number]) => edit.mutate({ kind: "change_view", sheet: sheet.id, view: moved.id, fields: { place: to } });
  const move = (by: [number, number]) => view && edit.mutate({ kind: "move_view", sheet: sheet.id, view: view.id, by });
  const centre = () => {
    const box = view && boxOf(view, data?.picture);
    if (!view || !box) return;
    const paper = paperOf(sheet, trade);
    move([(paper.width - box[0] - box[2]) / 2, (paper.height - box[1] - box[3]) / 2]);
  };
  const remove = () => view && edit.mutate({ kind: "remove_view", sheet: sheet.id, view: view.id });
  const proof = () => void navigate(`/jobs/${job.id}/proof/${sheet.id}?make`);
  useNudge(view, move);
  useCommands("sheet", [
    { id: "proof-sheet", title: `Proof ${sheet.name}`, key: "P", run: proof },
    ...(view
      ? [
          { id: "components", title: `Choose the components of the ${view.name} view`, key: "C", run: () => setChoosing(true) },
          { id: "centre", title: `Centre the ${view.name} view on the sheet`, key: "M", run: centre },
          { id: "remove", title: `Remove the ${view.name} view`, key: "Delete", run: remove },
          { id: "deselect", title: "Select nothing", key: "Escape", run: () => select(null) },
        ]
      : []),
    ...(sheet.views ?? []).map((v) => ({ id: `select-${v.id}`, title: `Select the ${v.name} view ${v.scale}`, run: () => select(v.id) })),
  ]);
  return (
    <>
      <MainAct>
        <Button type="primary" onClick={proof} disabled={!sheet.views?.length}>
          Proof this sheet
        </Button>
      </MainAct>
      <Desk
        job={job}
        sheet={sheet}
        trade={trade}
        selected={view}
        onSelect={select}
        onPlace={place}
        onComponents={() => setChoosing(true)}
        onCentre={centre}
        onRemove={remove}
      />
      {view ? (
        <ViewTicket job={job} sheet={sheet} view={view} change={change} move={move} onCentre={centre} onComponents={() => setChoosing(true)} />
      ) : (
        <SheetTicket
          job={job}
          sheet={sheet}
          change={(fields) => edit.mutate({ kind: "change_sheet", sheet: sheet.id, fields })}
          onView={select}
          onRemove={() => edit.mutate({ kind: "remove_sheet", sheet: sheet.id })}
        />
      )}
      {view && <ComponentsPicker view={view} open={choosing} close={() => setChoosing(false)} onHidden={(hidden) => change({ hidden })} />}
    </>
  );
}

/** The second stop: sheets, and the views on them. */
export function SheetsStop() {
  const job = useOpenJob();
  const { sheet: id } = useParams();
  const navigate = useNavigate();
  const { data: trade } = useTrade();
  const edit = useEdit(job.id);
  const sheets = job.document.sheets ?? [];
  const sheet = sheets.find((s) => s.id === id);
  const add = () => {
    const fresh: Sheet = { id: crypto.randomUUID().slice(0, 8), name: `Sheet ${sheets.length + 1}`, format: "A3", orientation: "landscape", frame: "iso", views: [] };
    edit.mutate({ kind: "add_sheet", sheet: fresh }, { onSuccess: () => void navigate(`/jobs/${job.id}/sheets/${fresh.id}`) });
  };
  useCommands("sheets-stop", [
    { id: "add-sheet", title: "Add a sheet", key: "A", run: add },
    ...sheets.map((s) => ({ id: `open-${s.id}`, title: `Open sheet ${s.name}`, run: () => void navigate(`/jobs/${job.id}/sheets/${s.id}`) })),
  ]);
  if (!sheet && sheets[0]) return <Navigate to={`/jobs/${job.id}/sheets/${sheets[0].id}`} replace />;
  return (
    <div className="desk-row">
      <SheetStrip job={job} stop="sheets" current={sheet?.id} onAdd={add} />
      {!sheet && (
        <p className="empty-desk">
          <span>
            No sheet yet. Choose a direction under <Link to={`/jobs/${job.id}/source`}>Source</Link> and put it on one, or add an empty sheet.
          </span>
        </p>
      )}
      {sheet && trade && <OpenSheet key={sheet.id} job={job} sheet={sheet} trade={trade} />}
    </div>
  );
}

import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from "@dnd-kit/core";
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { Button } from "antd";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import type { Job, Sheet } from "../api/client";
import { newId } from "../common/ids";
import { useBeginIssue, usePreview, type IssueRequest, type Pack } from "../api/output";
import { useEdit } from "../api/queries";
import { useCommands } from "../common/commands";
import { MainAct, useOpenJob } from "../shell/JobFrame";
import { Thumbnail } from "../paper/Thumbnail";
import { IssueTicket } from "./IssueTicket";
import { countedOn, isEmpty } from "../paper/geometry";
import * as texts from "./texts";

function InPack({
  job,
  sheet,
  number,
  notices,
  recipe,
  leaveOut,
}: {
  job: Job;
  sheet: Sheet;
  number: number;
  notices: string[];
  recipe: string;
  leaveOut: () => void;
}) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: sheet.id });
  return (
    <li ref={setNodeRef} className={isDragging ? "lifted" : ""} style={{ transform: CSS.Translate.toString(transform), transition }} data-sheet={sheet.name}>
      <button type="button" className="grasp" aria-label={texts.dragToAnotherPlace(number, sheet.name)} {...attributes} {...listeners}>
        {number}
      </button>
      <Thumbnail job={job} sheet={sheet} />
      <span className="what">
        <strong>{sheet.name}</strong>
        <span className="soft">
          {sheet.format.replace("mm", "")} · {countedOn(sheet)}
          {recipe && ` · ${recipe}`}
        </span>
        {notices.map((line) => (
          <small key={line} className="over">
            {line}
          </small>
        ))}
      </span>
      <span className="layer-acts">
        <Link to={`/jobs/${job.id}/proof/${sheet.id}`}>{texts.proof}</Link>
        <button type="button" onClick={leaveOut}>
          {texts.removeFromPack}
        </button>
      </span>
    </li>
  );
}

function OpenPack({ job, pack }: { job: Job; pack: Pack }) {
  const edit = useEdit(job.id);
  const begin = useBeginIssue(job.id);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 5 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const keep = (fields: Partial<Pack>) => edit.mutate({ kind: "keep_pack", pack: { ...pack, ...fields } });
  const [wish, setWish] = useState<Omit<IssueRequest, "pack">>({
    purpose: "for information",
    revision: "",
    note: "",
    recipe: "",
    choices: {},
    open_password: "",
    change_password: "",
  });
  const whole = { ...wish, pack: pack.id };
  const { data: preview } = usePreview(job.id, job.state, { ...whole, note: "" });
  const sheets = pack.sheets.flatMap((id) => job.document.sheets.filter((sheet) => sheet.id === id));
  const others = job.document.sheets.filter((sheet) => !pack.sheets.includes(sheet.id));
  const drop = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const order = pack.sheets.filter((id) => id !== active.id);
    const from = pack.sheets.indexOf(String(active.id));
    const to = pack.sheets.indexOf(String(over.id));
    order.splice(order.indexOf(String(over.id)) + (from < to ? 1 : 0), 0, String(active.id));
    keep({ sheets: order });
  };
  const issue = () => begin.mutate(whole, { onSuccess: () => setWish({ ...wish, note: "", open_password: "", change_password: "" }) });
  const blocked = !preview || !!preview.problems.length;
  const about = (sheet: Sheet) => (preview?.notices ?? []).filter((row) => row.sheet === sheet.id).map((row) => row.message);
  useCommands("issue", [
    ...(blocked ? [] : [{ id: "issue-pack", title: texts.issue2(pack.name), key: "I", run: issue }]),
    ...others.map((sheet) => ({ id: `add-${sheet.id}`, title: texts.addTo(sheet.name, pack.name), run: () => keep({ sheets: [...pack.sheets, sheet.id] }) })),
  ]);
  return (
    <>
      <MainAct>
        <Button type="primary" onClick={issue} disabled={blocked} title={preview?.problems[0]} loading={begin.isPending}>
          {texts.issueThisPack}
        </Button>
      </MainAct>
      <div className="desk pack-desk">
        <header>
          <h2>{pack.name}</h2>
          <p className="soft">
            {preview?.names.length === 1
              ? preview.names[0]
              : preview?.names.length
                ? texts.files2(preview.names.length, preview.names.slice(0, 3).join(", "), preview.names.length > 3 ? " …" : "")
                : texts.noFileYet}
          </p>
        </header>
        <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
          <SortableContext items={[...pack.sheets]} strategy={verticalListSortingStrategy}>
            <ol className="pack-sheets" aria-label={texts.sheetsOfThePack}>
              {sheets.map((sheet, index) => (
                <InPack
                  key={sheet.id}
                  job={job}
                  sheet={sheet}
                  number={index + 1}
                  notices={about(sheet)}
                  recipe={preview?.recipes?.find((row) => row.sheet === sheet.id)?.message ?? ""}
                  leaveOut={() => keep({ sheets: pack.sheets.filter((id) => id !== sheet.id) })}
                />
              ))}
            </ol>
          </SortableContext>
        </DndContext>
        {!!others.length && (
          <section className="left-out">
            <h3>{texts.notInThisPack}</h3>
            <p className="layer-acts">
              {others.map((sheet) => (
                <button key={sheet.id} type="button" onClick={() => keep({ sheets: [...pack.sheets, sheet.id] })}>
                  {texts.add} {sheet.name}
                </button>
              ))}
            </p>
          </section>
        )}
      </div>
      <IssueTicket
        job={job}
        pack={pack}
        wish={wish}
        setWish={setWish}
        keep={keep}
        remove={() => edit.mutate({ kind: "remove_pack", pack: pack.id })}
        problems={preview?.problems ?? []}
        begin={issue}
        blocked={blocked}
        busy={begin.isPending}
      />
    </>
  );
}

/** The Issue stop: packs of sheets, and sending them out. */
export function IssueStop() {
  const job = useOpenJob();
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const edit = useEdit(job.id);
  const packs = job.document.packs;
  const pack = packs.find((p) => p.id === search.get("pack")) ?? packs[0];
  const open = (id: string) => void navigate(`/jobs/${job.id}/issue?pack=${id}`);
  const add = () => {
    const names = new Set(packs.map((p) => p.name));
    let name = texts.allSheets;
    for (let n = 2; names.has(name); n += 1) name = texts.pack2(n);
    const fresh = {
      id: newId(),
      name,
      sheets: job.document.sheets.filter((s) => !isEmpty(s)).map((s) => s.id),
      recipe: "",
      files: "one",
      pattern: "{job}_{revision}_{title}",
      formats: ["PDF"],
    } as Pack;
    edit.mutate({ kind: "keep_pack", pack: fresh }, { onSuccess: () => open(fresh.id) });
  };
  useCommands("issue-stop", [
    { id: "add-pack", title: texts.makeAPackOfAll, key: "A", run: add },
    { id: "register", title: texts.openTheRegisterOfAll, key: "G", run: () => void navigate("/register") },
    ...packs.map((p) => ({ id: `pack-${p.id}`, title: texts.openPack(p.name), run: () => open(p.id) })),
  ]);
  return (
    <div className="desk-row">
      <nav className="strip packs" aria-label={texts.packs}>
        <h3>{texts.packs}</h3>
        <ul>
          {packs.map((p) => (
            <li key={p.id}>
              <button type="button" className={p.id === pack?.id ? "at" : ""} onClick={() => open(p.id)}>
                <strong>{p.name}</strong>
                <em>{p.sheets.length === 1 ? texts.n1Sheet : texts.sheets2(p.sheets.length)}</em>
              </button>
            </li>
          ))}
        </ul>
        <Button type="link" size="small" onClick={add}>
          {texts.newPack}
        </Button>
        <Link className="to-register" to="/register">
          {texts.registerOfIssues}
        </Link>
      </nav>
      {pack ? (
        <OpenPack key={pack.id} job={job} pack={pack} />
      ) : (
        <p className="empty-desk">
          <span>{texts.noPackYetAPack}</span>
        </p>
      )}
    </div>
  );
}

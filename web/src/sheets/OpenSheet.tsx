import { Button, Spin } from "antd";
import { Suspense, useEffect, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import type { Edit, Job, Sheet, View, Schemas } from "../api/client";
import { detailOf, excerptOf, flatOf, hiddenOf } from "../api/content";
import { useOverall, useWriting } from "../api/desk";
import { newId } from "../common/ids";
import { usePicture } from "../api/queries";
import { useNudge } from "../common/useNudge";
import { MainAct } from "../shell/JobFrame";
import { part } from "../common/part";
import { useClipboard } from "./clipboard";
import { Desk } from "../desk/Desk";
import { boxOf, inDrawing, inPlane, isEmpty, paperOf, regionBetween, whyEmpty } from "../paper/geometry";
import { useDeskMode } from "../views/mode";
import type { NewNote } from "../desk/NoteCells";
import { useWorkedOn } from "../intake/target";
import { Ticket } from "../ticket/Ticket";
import { SheetStanding, useSheetEdit } from "./SheetStanding";
import { useSheetCommands } from "./useSheetCommands";
import * as texts from "./texts";

// the desk is there before what is said of it
const ComponentsPicker = part(async () => (await import("../components/ComponentsPicker")).ComponentsPicker);
const ExcerptTicket = part(async () => (await import("../drawing/ExcerptTicket")).ExcerptTicket);
const FlatTicket = part(async () => (await import("../metal/FlatTicket")).FlatTicket);
const AnnotationLayers = part(async () => (await import("../solid/AnnotationLayers")).AnnotationLayers);
const AnnotationTicket = part(async () => (await import("../solid/AnnotationTicket")).AnnotationTicket);
const SeveralTicket = part(async () => (await import("./SeveralTicket")).SeveralTicket);
const SheetTicket = part(async () => (await import("./SheetTicket")).SheetTicket);
const ViewTicket = part(async () => (await import("./ViewTicket")).ViewTicket);
const AnnotationStudio = part(async () => (await import("../solid/AnnotationStudio")).AnnotationStudio);

function Studio(props: React.ComponentProps<typeof AnnotationStudio>) {
  return (
    <Suspense fallback={<Spin description={texts.openingThe3dView} />}>
      <AnnotationStudio {...props} />
    </Suspense>
  );
}

const movesOf = (sheet: Sheet, views: readonly View[], by: [number, number]): Edit => ({
  kind: "move_views",
  sheet: sheet.id,
  moves: Object.fromEntries(views.map((v) => [v.id, by])),
});

/** The ticket of a view that looks at no model. */
const ticketOf = (view: View) => (detailOf(view) ? null : flatOf(view) ? FlatTicket : excerptOf(view) ? ExcerptTicket : null);

export function OpenSheet({ job, sheet }: { job: Job; sheet: Sheet }) {
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const { state, closed, edit } = useSheetEdit(job, sheet);
  const [choosing, setChoosing] = useState(false);
  const [dimension, setDimension] = useState<string | null>(null);
  const { mode, begin, also: others, setAlso } = useDeskMode();
  const { data: writing } = useWriting(job, sheet.id);
  const overall = useOverall(job.id, sheet.id);
  const view = sheet.views.find((v) => v.id === search.get("view")) ?? null;
  const also = others.filter((id) => id !== view?.id && sheet.views.some((v) => v.id === id));
  const several = view && also.length ? sheet.views.filter((v) => v.id === view.id || also.includes(v.id)) : [];
  const field = view ? undefined : sheet.annotations_3d.find((own) => own.id === search.get("field"));
  const lookInto = () => field && setSearch({ field: field.id, look: "" }, { replace: true });
  const { data } = usePicture(job, sheet.id, view);
  useEffect(() => () => begin(null), [begin, sheet.id]);
  const work = useWorkedOn((state) => state.work);
  useEffect(() => work(job.id, sheet.id), [work, job.id, sheet.id]);

  const select = (id: string | null, more = false) => {
    if (mode && id === null) return;
    if (more && id && view && id !== view.id) return setAlso(also.includes(id) ? also.filter((a) => a !== id) : [...also, id]);
    if (id && also.includes(id)) return;
    setAlso([]);
    setDimension(null);
    if (id !== search.get("view") || search.has("field")) setSearch(id ? { view: id } : {}, { replace: true });
  };
  const proof = () => void navigate(`/jobs/${job.id}/proof/${sheet.id}?make`);
  const changeView = (fields: Schemas["ViewPatch"]) => view && edit({ kind: "change_view", sheet: sheet.id, view: view.id, fields });
  const move = (by: [number, number], what: View | null = view) => {
    if (!what) return;
    edit(movesOf(sheet, several.some((v) => v.id === what.id) ? several : [what], by));
  };
  const centre = () => {
    const [box, paper] = [view && (writing?.views[view.id]?.box ?? boxOf(view, data?.picture)), paperOf(job, sheet)];
    if (!view || !box) return;
    move([(paper.width - box[0] - box[2]) / 2, (paper.height - box[1] - box[3]) / 2]);
  };
  const remove = () => view && edit({ kind: "remove_view", sheet: sheet.id, view: view.id });
  const clipboard = useClipboard(job, sheet, several.length > 1 ? several : view ? [view] : [], edit, select);
  const [fresh, setFresh] = useState<NewNote | null>(null);
  const write = (text: string | null) => {
    if (text && fresh) {
      const pointed = fresh.target && view ? { view: view.id, target: inPlane(view, fresh.target) } : { view: null, target: null };
      edit({ kind: "add_note", sheet: sheet.id, note: { id: newId(), text, place: fresh.place, height: 3.5, angle: 0, always: false, ...pointed } });
    }
    setFresh(null);
  };
  useNudge(!!view, move);
  useSheetCommands({
    sheet,
    view,
    field: search.has("look") ? undefined : field,
    mode: !!mode,
    begin,
    edit,
    select,
    proof,
    lookInto,
    remove,
    centre,
    overall: (id) => overall.mutate(id),
    choose: () => setChoosing(true),
  });
  if (field && search.has("look"))
    return <Studio job={job} sheet={sheet} field={field} edit={edit} leave={() => setSearch({ field: field.id }, { replace: true })} />;
  const Special = view ? ticketOf(view) : null;
  return (
    <>
      <MainAct>
        <Button type="primary" onClick={proof} disabled={isEmpty(sheet)} title={whyEmpty(sheet)}>
          {texts.proofThisSheet}
        </Button>
      </MainAct>
      <Desk
        closed={closed}
        job={job}
        sheet={sheet}
        selected={view}
        also={also}
        onSelect={select}
        onMove={(moved, by) => move(by, moved)}
        onComponents={() => setChoosing(true)}
        onCopy={clipboard.copy}
        onRemove={remove}
        onTitle={(fields) => edit({ kind: "set_title", sheet: sheet.id, fields })}
        onNote={(place, target) => setFresh({ place, target })}
        notes={{
          fresh,
          onFresh: write,
          onText: (id, text) => edit({ kind: "change_note", sheet: sheet.id, note: id, fields: { text } }),
          onMove: (id, place) => edit({ kind: "change_note", sheet: sheet.id, note: id, fields: { place } }),
        }}
        onRegion={(first, second) =>
          view && edit({ kind: "change_excerpt", sheet: sheet.id, view: view.id, fields: { region: regionBetween(view, first, second) } })
        }
        onShift={(by) => view && edit({ kind: "shift_excerpt", sheet: sheet.id, view: view.id, by: inDrawing(view, by) })}
        onArea={(...drawn) => field && void import("../solid/area").then(({ areaOf }) => edit(areaOf(sheet.id, field.id, ...drawn)))}
        fields={(paper, zoom, lines) => (
          <Suspense>
            <AnnotationLayers
              job={job}
              sheet={sheet}
              paper={paper}
              zoom={zoom}
              lines={lines}
              selected={field?.id}
              edit={edit}
              onSelect={(id, look) => setSearch(look ? { field: id, look: "" } : { field: id }, { replace: true })}
            />
          </Suspense>
        )}
        onDimension={(id, which) => {
          select(id);
          setDimension(which);
        }}
      />
      <SheetStanding job={job} sheet={sheet} state={state}>
        <Suspense fallback={<Ticket title={view?.name ?? sheet.name}>{null}</Ticket>}>
          {several.length > 1 ? (
            <SeveralTicket job={job} sheet={sheet} views={several} edit={edit} />
          ) : view && Special ? (
            <Special
              key={view.id}
              job={job}
              sheet={sheet}
              view={view}
              writing={writing}
              change={changeView}
              edit={edit}
              move={move}
              onCentre={centre}
              open={dimension}
              setOpen={setDimension}
            />
          ) : view ? (
            <ViewTicket
              key={view.id}
              job={job}
              sheet={sheet}
              view={view}
              writing={writing}
              change={changeView}
              edit={edit}
              move={move}
              onCentre={centre}
              onComponents={() => setChoosing(true)}
              open={dimension}
              setOpen={setDimension}
            />
          ) : field ? (
            <AnnotationTicket key={field.id} job={job} sheet={sheet} field={field} edit={edit} onOpen={lookInto} />
          ) : (
            <SheetTicket
              key={sheet.id}
              job={job}
              sheet={sheet}
              writing={writing}
              edit={edit}
              pasting={clipboard}
              onView={(id) => select(id)}
              onField={(id) => setSearch({ field: id }, { replace: true })}
            />
          )}
        </Suspense>
      </SheetStanding>
      <Suspense>
        {view && (
          <ComponentsPicker
            key={`components of ${view.id}`}
            job={job}
            view={{ ...view, hidden: hiddenOf(view) }}
            open={choosing}
            close={() => setChoosing(false)}
            onHidden={(hidden) => changeView({ hidden })}
          />
        )}
      </Suspense>
    </>
  );
}

import { Button, Spin } from "antd";
import { lazy, Suspense, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import type { Job, Schemas, Tree } from "../api/client";
import { useBringIn, useEdit, usePutOnSheet, useTrade, useTree } from "../api/queries";
import { usePutAnnotation } from "../api/solids";
import { useCommands } from "../common/commands";
import { MainAct, useOpenJob } from "../shell/JobFrame";
import { DrawingSource } from "../drawing/DrawingSource";
import { Section, Ticket } from "../ticket/Ticket";
import { ComponentTree } from "../components/ComponentTree";
import { IncomingList, Intake } from "./Intake";
import { Revision } from "../intake/Revision";
import { SourceFacts, walk } from "./SourceFacts";
import { sameView, useTargetSheet } from "../intake/target";
import { CutAct } from "../cutting/CutAct";
import { useSheetParts } from "../api/metal";
import { MetalSection, marksOf } from "../metal/MetalSection";
import { chosenWords, ModelToPut, type Direction } from "./ModelToPut";
import { Viewpoints } from "./Viewpoints";
import type { Looking } from "../intake/target";
import * as texts from "./texts";
import * as intakeTexts from "../intake/texts";

/** Models of so many parts are looked through for sheet metal at once. */
const FEW = 40;

const Scene = lazy(() => import("./Scene"));

function OpenSource({ job, reference: ref, tree }: { job: Job; reference: Schemas["SourceRef"]; tree: Tree }) {
  const { id: source, name } = ref;
  const turned = useRef<Looking | null>(null);
  const { data: trade } = useTrade();
  const navigate = useNavigate();
  const put = usePutOnSheet(job.id);
  const edit = useEdit(job.id);
  const all = useMemo(() => tree.components.flatMap(walk), [tree]);
  const leaves = useMemo(() => all.filter((c) => c.shape !== null && c.shape !== undefined), [all]);
  const [asked] = useSearchParams();
  const [path, setPath] = useState<string | null>(asked.get("source") === source ? asked.get("component") : null);
  const [direction, setDirection] = useState<Direction>({ name: "iso", look: [-1, 1, -1], up: [0, 0, 1] });
  const [turn, setTurn] = useState(0);
  const [seenFrom, setSeenFrom] = useState("iso");
  const sheets = job.document.sheets ?? [];
  const { sheet, aimAt } = useTargetSheet(job);
  const [also, setAlso] = useState<readonly string[]>([]);
  // what is sheet metal takes a while to find out in a large assembly: only when it is asked for
  const [metal, setMetal] = useState(tree.shapes.length <= FEW);
  const [onlyMetal, setOnlyMetal] = useState(false);
  const { data: found } = useSheetParts(source, metal);
  const marks = useMemo(() => marksOf(found?.parts), [found?.parts]);
  const selected = all.find((c) => c.path === path) ?? null;
  const chosen = [...new Set([...(path ? [path] : []), ...also])].filter((own) => all.some((c) => c.path === own));

  const shown = useMemo(() => all.filter((c) => c.path === path || also.includes(c.path)), [all, path, also]);
  /** With *more*, one more or one less; what is selected last is the one whose facts are shown. */
  const select = (next: string | null, more = false) => {
    if (more && next === null) return;
    const others = chosen.filter((own) => own !== next);
    const less = more && next !== null && chosen.includes(next);
    setAlso(more ? others : []);
    setPath(less ? (others.at(-1) ?? null) : next);
  };
  const look = (next: Direction) => {
    // until the camera has followed, it still tells where it was
    turned.current = null;
    setDirection(next);
    setSeenFrom(next.name);
    setTurn(turn + 1);
  };
  /** What is seen: the direction chosen last, or where the model was turned to by hand since. */
  const seen = (): Direction => {
    const now = turned.current;
    if (!now || sameView(direction, now)) return direction;
    const known = trade?.viewpoints.find((v) => sameView(v, now));
    return known ? known : { name: "turned", ...now };
  };
  const putOn = (each = false) => {
    if (put.isPending) return;
    put.mutate(
      { source, ...seen(), sheet: sheet === "new" ? null : sheet, components: chosen, each },
      { onSuccess: (placed) => void navigate(`/jobs/${job.id}/sheets/${placed.sheet}?view=${placed.view}`) },
    );
  };
  const putField = usePutAnnotation(job.id);
  const putSolid = (whole: boolean) =>
    putField.mutate(
      { source, sheet: sheet === "new" ? null : sheet, whole },
      { onSuccess: (placed) => void navigate(`/jobs/${job.id}/sheets/${placed.sheet}?field=${placed.field}`) },
    );
  useCommands("source-stop", [
    { id: "put-3d", title: texts.addTheModelToA, key: "T", run: () => putSolid(false) },
    { id: "page-3d", title: texts.addA3dPageOf, run: () => putSolid(true) },
    { id: "put", title: chosen.length ? texts.putOnASheet(chosenWords(chosen)) : texts.putThisViewOnA, key: "P", run: () => putOn() },
    ...(chosen.length ? [{ id: "deselect", title: texts.selectNothing, key: "Escape", run: () => select(null) }] : []),
    ...(chosen.length > 1 ? [{ id: "put-each", title: texts.putComponentsOnASheet(chosen.length), run: () => putOn(true) }] : []),
    { id: "whole", title: texts.showTheWholeModel, key: "F", run: () => setTurn(turn + 1) },
    ...(trade?.viewpoints ?? []).map((v) => ({ id: `look-${v.name}`, title: texts.viewDirection2(v.name), run: () => look(v) })),
  ]);

  return (
    <>
      <MainAct>
        <Button type="primary" loading={put.isPending} onClick={() => putOn()}>
          {texts.putOnSheet}
        </Button>
      </MainAct>
      <div className="scene">
        <Suspense fallback={<Spin description={texts.openingThe3dView} />}>
          <Scene
            source={source}
            leaves={leaves}
            look={direction.look}
            up={direction.up}
            selected={shown}
            onSelect={select}
            turn={turn}
            onTurned={(look, up) => {
              turned.current = { look, up };
              // the same word again draws nothing anew
              setSeenFrom(seen().name);
            }}
          />
        </Suspense>
        <p className="hint soft">
          {texts.dragToRotateWheelTo} <kbd>F</kbd> {texts.wholeModel}
        </p>
      </div>
      <Ticket title={selected?.name ?? name} under={selected ? texts.ofWord(name) : texts.modelInMillimetres}>
        {/* above all that changes with what is selected, so that it stays under the pointer */}
        <Section title={texts.components}>
          <ComponentTree tree={tree} height={190} selected={path} also={also} onSelect={select} marks={marks} onlyMarked={metal && onlyMetal} />
          <p className="soft small">{texts.ctrlClickSelectsSeveral}</p>
        </Section>
        <ModelToPut
          direction={{ ...direction, name: seenFrom }}
          onLook={look}
          chosen={chosen}
          sheets={sheets}
          sheet={sheet}
          onSheet={aimAt}
          busy={put.isPending}
          onPut={putOn}
          onPutSolid={putSolid}
        />
        <SourceFacts job={job} source={source} tree={tree} name={name} selected={selected} />
        {selected && path && (
          <span className="layer-acts">
            <Link to={`/jobs/${job.id}/parts?source=${encodeURIComponent(source)}&component=${encodeURIComponent(path)}`}>{texts.showInParts}</Link>
          </span>
        )}
        {!selected && <Revision job={job} source={ref} />}
        <CutAct job={job} source={source} drawing={false} given={chosen} />
        <MetalSection
          job={job}
          source={source}
          chosen={chosen}
          wanted={metal}
          onWanted={() => setMetal(true)}
          only={onlyMetal}
          onOnly={setOnlyMetal}
          onSelect={(own) => select(own)}
        />
        <Section title={texts.viewpoints}>
          <Viewpoints job={job} now={() => turned.current} onLook={(v) => look(v)} />
        </Section>
        <Button type="link" danger className="take-out" onClick={() => edit.mutate({ kind: "remove_source", source })}>
          {texts.remove} {name} {texts.fromJob}
        </Button>
      </Ticket>
    </>
  );
}

/** The Source stop: files in, and a good look at them. */
export function SourceStop() {
  const job = useOpenJob();
  const sources = job.document.sources ?? [];
  const [asked] = useSearchParams();
  const [chosen, setChosen] = useState<string | null>(asked.get("source"));
  const source = sources.find((s) => s.id === chosen) ?? sources.at(-1);
  const { data: tree, error } = useTree(source?.drawing ? undefined : source?.id);
  const bringIn = useBringIn(job.id);
  const edit = useEdit(job.id);
  const drop = (event: React.DragEvent) => {
    // what falls on the drop field has been taken there
    if (event.defaultPrevented) return;
    event.preventDefault();
    for (const file of event.dataTransfer.files) bringIn.mutate(file);
  };
  return (
    <div className="desk-row" onDragOver={(event) => event.preventDefault()} onDrop={drop}>
      <div className="strip">
        <h3>{texts.sources}</h3>
        <ul className="sources">
          {sources.map((s) => (
            <li key={s.id}>
              <button type="button" className={s.id === source?.id ? "at" : ""} onClick={() => setChosen(s.id)}>
                {s.name}{" "}
                {s.earlier.length > 0 && (
                  <em>
                    {intakeTexts.revision} {s.earlier.length + 1}
                  </em>
                )}{" "}
                <em>
                  {(s.size / 1e6).toFixed(s.size < 1e5 ? 3 : 1)} {texts.mb}
                </em>
              </button>
            </li>
          ))}
        </ul>
        {sources.length > 0 && (
          <label className="job-unit soft">
            {texts.unitOfTheJob}{" "}
            <select
              aria-label={texts.unitOfTheJob}
              value={job.document.unit || "mm"}
              onChange={({ target }) => edit.mutate({ kind: "set_job_unit", unit: target.value as "mm" | "in" })}
            >
              <option value="mm">{texts.millimetres}</option>
              <option value="in">{texts.inches}</option>
            </select>
          </label>
        )}
        <IncomingList job={job} />
        {source && <Intake job={job} large={false} />}
      </div>
      {!source && (
        <div className="empty-desk">
          <Intake job={job} large />
        </div>
      )}
      {error && <p role="alert">{error.message}</p>}
      {source?.drawing && <DrawingSource key={source.id} job={job} reference={source} />}
      {source && !source.drawing && tree && <OpenSource key={source.id} job={job} reference={source} tree={tree} />}
    </div>
  );
}

import { App, Button, Spin } from "antd";
import { Suspense, useLayoutEffect, useState, type DragEvent, type ReactNode } from "react";
import { createPortal } from "react-dom";
import { Link, Outlet, useLocation, useNavigate, useOutletContext, useParams, useSearchParams } from "react-router";
import { create } from "zustand";
import { useChanging } from "../api/change";
import { Refusal, said, signOut, type Job } from "../api/client";
import { useNews } from "../api/news";
import { usePenFacts } from "../api/pens";
import { useBringIn, useEdit, useJob, useTrade, useUndo } from "../api/queries";
import { useEditing } from "../recipes/editing";
import { useGuide } from "../guide/useGuide";
import { TypedField } from "../ticket/TypedField";
import { useCommands } from "../common/commands";
import { part } from "../common/part";
import { useJobUnit } from "../common/unit";
import { useNarrow } from "../common/screen";
import type { Stop } from "./stop";
import { Stopped } from "../common/Stopped";
import { Rail } from "./Rail";
import { useLetters } from "./useLetters";
import * as texts from "./texts";

const Palette = part(async () => (await import("./Palette")).Palette);
const RecipeEditor = part(async () => (await import("../recipes/RecipeEditor")).RecipeEditor);

/** The job that the stops work on. */
export const useOpenJob = () => useOutletContext<Job>();

const useSlot = create<{ place: HTMLElement | null }>(() => ({ place: null }));
const holdSlot = (place: HTMLElement | null) => useSlot.setState({ place });

/** Put the stop's main act into the bar. */
export function MainAct({ children }: { children: ReactNode }) {
  const place = useSlot((state) => state.place);
  return place ? createPortal(children, place) : null;
}

function Saved({ job }: { job: Job }) {
  const busy = useChanging(job.id);
  const { error } = useJob(job.id);
  if (error)
    return (
      <span className="soft" role="alert">
        {said(error)}
      </span>
    );
  return (
    <span className="soft" role="status">
      {busy ? texts.saving : texts.allChangesSaved}
    </span>
  );
}

/** Undo or redo. What someone else did is asked about first. */
function useOwnStep(job: Job, way: "undo" | "redo") {
  const step = useUndo(job.id, way);
  const { modal } = App.useApp();
  return () => {
    if (!(way === "undo" ? job.undo_other : job.redo_other)) return step.mutate({ anyway: false });
    void modal.confirm({
      title: texts.someoneElseDidThis(job[way]),
      content: way === "undo" ? texts.undoingTakesBackTheirChange : texts.theyTookItBackThis,
      okText: way === "undo" ? texts.undoIt : texts.doItAgain,
      cancelText: texts.cancel,
      onOk: () => step.mutate({ anyway: true }),
    });
  };
}

/** The stop that is open. */
function useHere(stops: readonly Stop[]): Stop | undefined {
  const path = useLocation().pathname.split("/")[3];
  return stops.find((stop) => stop.path === path);
}

function OpenJob({ job, stops }: { job: Job; stops: readonly Stop[] }) {
  const { sheet } = useParams();
  const navigate = useNavigate();
  useNews(job.id);
  const unit = job.document.unit || "mm";
  useLayoutEffect(() => useJobUnit.setState({ unit }), [unit]);
  const [undo, redo] = [useOwnStep(job, "undo"), useOwnStep(job, "redo")];
  const edit = useEdit(job.id);
  const { data: pens } = usePenFacts();
  const { data: trade } = useTrade();
  const [palette, setPalette] = useState(false);
  const [wish, setFolded] = useState<boolean | null>(null);
  const narrow = useNarrow();
  const here = useHere(stops);
  const [search] = useSearchParams();
  // on a narrow screen the sheet has the window by itself, and what is selected has its ticket over it
  const alone = narrow && here?.path === "sheets";
  const folded = wish ?? alone;
  const peeks = wish === null && alone && (search.has("view") || search.has("field"));
  useLetters(setPalette);
  const bringIn = useBringIn(job.id);
  const { message } = App.useApp();
  // a file that is dropped anywhere becomes a source of the job; where a stop takes it itself, that is as it was
  const drop = (event: DragEvent<HTMLElement>) => {
    if (event.defaultPrevented) return;
    event.preventDefault();
    for (const file of event.dataTransfer.files) bringIn.mutate(file, { onSuccess: () => void message.success(texts.isReadAndJoinsTheSources(file.name)) });
  };
  const guide = useGuide(here?.guide ?? "");
  const recipe = useEditing((state) => state.shown);
  const at = sheet ? `/${sheet}` : "";
  const save = () => window.location.assign(`/api/jobs/${job.id}/file.zip`);
  useCommands("job", [
    ...(job.undo ? [{ id: "undo", title: texts.undo(job.undo), key: "U", run: undo }] : []),
    ...(job.redo ? [{ id: "redo", title: texts.redo(job.redo), key: "Shift+U", run: redo }] : []),
    ...stops.map((stop, index) => ({
      id: stop.path,
      title: texts.goTo(stop.name),
      key: `${index + 1}`,
      run: () => void navigate(`/jobs/${job.id}/${stop.path}${stop.onSheet ? at : ""}`),
    })),
    { id: "save", title: texts.saveTheJobWithIts, run: save },
    { id: "fold", title: folded ? texts.showStripAndTicket : texts.foldStripAndTicket, key: "Z", run: () => setFolded(!folded) },
    { id: "jobs", title: texts.goToAllJobs, key: "J", run: () => void navigate("/") },
    ...(trade?.signed_in ? [{ id: "sign-out", title: texts.signOut, run: () => void signOut() }] : []),
  ]);
  return (
    <div className={`frame${folded ? " folded" : ""}${peeks ? " peeks" : ""}`}>
      <header className="bar">
        <Link to="/" className="home" aria-label={texts.allJobs}>
          <img src="/mark.svg" alt="" width={22} height={22} />
        </Link>
        <TypedField
          label={texts.jobName}
          className="job-name"
          value={job.document.name}
          read={async (text) => text.trim()}
          onChange={(name) => edit.mutate({ kind: "rename_job", name })}
        />
        <span className="soft">
          {texts.job} {job.number}
        </span>
        <Saved job={job} />
        <span className="spring" />
        <Button data-again type="text" disabled={!job.undo} onClick={undo} title={job.undo && `Undo: ${job.undo}`}>
          {texts.undo2} <kbd>U</kbd>
        </Button>
        <Button data-again type="text" disabled={!job.redo} onClick={redo} title={job.redo && `Redo: ${job.redo}`}>
          {texts.redo2} <kbd>Shift+U</kbd>
        </Button>
        <Button type="text" onClick={save}>
          {texts.saveACopy}
        </Button>
        <Button type="text" onClick={() => setPalette(true)}>
          {texts.findAnAction} <kbd>K</kbd>
        </Button>
        <Button type="text" onClick={guide.open}>
          {texts.guide} <kbd>?</kbd>
        </Button>
        <span ref={holdSlot} />
      </header>
      <Rail stops={stops} job={job} sheet={sheet} />
      <main className="stage" onDragOver={(event) => event.preventDefault()} onDrop={drop}>
        {folded && (
          <Button className="fold-back" onClick={() => setFolded(false)}>
            {texts.showStripAndTicket} <kbd>Z</kbd>
          </Button>
        )}
        <Suspense fallback={<Spin />}>
          <Outlet context={job} />
        </Suspense>
      </main>
      {guide.guide}
      {palette && (
        <Suspense fallback={null}>
          <Palette setOpen={setPalette} />
        </Suspense>
      )}
      {recipe && (
        <Suspense fallback={<Spin fullscreen />}>
          <RecipeEditor sets={[...job.document.pens, ...(pens?.shipped ?? [])]} />
        </Suspense>
      )}
    </div>
  );
}

/** A job with its bar and rail around whichever stop is open. */
export function JobFrame({ stops }: { stops: readonly Stop[] }) {
  const id = Number(useParams().job);
  const { data: job, error } = useJob(id);
  // a server that is away for a moment takes nothing off the desk
  if (error && (!job || (error instanceof Refusal && error.status === 404))) {
    return (
      <Stopped title={texts.thisJobCannotBeOpened} text={said(error)}>
        <Link to="/">
          <Button type="primary">{texts.allJobs}</Button>
        </Link>
      </Stopped>
    );
  }
  if (!job) return <Spin fullscreen description={texts.openingTheJob} />;
  return <OpenJob job={job} stops={stops} />;
}

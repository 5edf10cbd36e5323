import { App, Button, Spin } from "antd";
import { Suspense, useState, type ReactNode } from "react";
import { createPortal } from "react-dom";
import { Link, Outlet, useNavigate, useOutletContext, useParams } from "react-router";
import { create } from "zustand";
import { useChanging } from "../api/change";
import { Refusal, said, signOut, type Job } from "../api/client";
import { useNews } from "../api/news";
import { usePenFacts } from "../api/pens";
import { useEdit, useJob, useTrade, useUndo } from "../api/queries";
import { useEditing } from "../recipes/editing";
import { TypedField } from "../ticket/TypedField";
import { useCommands } from "./commands";
import { Palette } from "./Palette";
import { part } from "./part";
import { Stopped } from "./Stopped";
import { Rail } from "./Rail";

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
  if (error) return <span className="soft" role="alert">{said(error)}</span>;
  return <span className="soft" role="status">{busy ? "Saving …" : "All changes saved"}</span>;
}

/** Undo or redo. What someone else did is asked about first. */
function useOwnStep(job: Job, way: "undo" | "redo") {
  const step = useUndo(job.id, way);
  const { modal } = App.useApp();
  return () => {
    if (!(way === "undo" ? job.undo_other : job.redo_other)) return step.mutate({ anyway: false });
    void modal.confirm({
      title: `Someone else did this: ${job[way]}`,
      content: way === "undo" ? "Undoing takes back their change, not one of yours." : "They took it back; this would do it again.",
      okText: way === "undo" ? "Undo it" : "Do it again",
      cancelText: "Cancel",
      onOk: () => step.mutate({ anyway: true }),
    });
  };
}

function OpenJob({ job }: { job: Job }) {
  const { sheet } = useParams();
  const navigate = useNavigate();
  useNews(job.id);
  const [undo, redo] = [useOwnStep(job, "undo"), useOwnStep(job, "redo")];
  const edit = useEdit(job.id);
  const { data: pens } = usePenFacts();
  const { data: trade } = useTrade();
  const [palette, setPalette] = useState(false);
  const recipe = useEditing((state) => state.shown);
  const at = sheet ? `/${sheet}` : "";
  const save = () => window.location.assign(`/api/jobs/${job.id}/file.zip`);
  useCommands("job", [
    ...(job.undo ? [{ id: "undo", title: `Undo: ${job.undo}`, key: "U", run: undo }] : []),
    ...(job.redo ? [{ id: "redo", title: `Redo: ${job.redo}`, key: "Shift+U", run: redo }] : []),
    { id: "source", title: "Go to Source", key: "1", run: () => void navigate(`/jobs/${job.id}/source`) },
    { id: "sheets", title: "Go to Sheets", key: "2", run: () => void navigate(`/jobs/${job.id}/sheets${at}`) },
    { id: "pens", title: "Go to Pens", key: "3", run: () => void navigate(`/jobs/${job.id}/pens${at}`) },
    { id: "proof", title: "Go to Proof", key: "4", run: () => void navigate(`/jobs/${job.id}/proof${at}`) },
    { id: "issue", title: "Go to Issue", key: "5", run: () => void navigate(`/jobs/${job.id}/issue`) },
    { id: "save", title: "Save the job with its sources as a file", run: save },
    { id: "jobs", title: "Go to all jobs", key: "J", run: () => void navigate("/") },
    ...(trade?.signed_in ? [{ id: "sign-out", title: "Sign out", run: () => void signOut() }] : []),
  ]);
  return (
    <div className="frame">
      <header className="bar">
        <Link to="/" className="home" aria-label="All jobs">
          <img src="/mark.svg" alt="" width={22} height={22} />
        </Link>
        <TypedField
          label="Job name"
          className="job-name"
          value={job.document.name}
          read={async (text) => text.trim()}
          onChange={(name) => edit.mutate({ kind: "rename_job", name })}
        />
        <span className="soft">job {job.number}</span>
        <Saved job={job} />
        <span className="spring" />
        <Button data-again type="text" disabled={!job.undo} onClick={undo} title={job.undo && `Undo: ${job.undo}`}>
          Undo <kbd>U</kbd>
        </Button>
        <Button data-again type="text" disabled={!job.redo} onClick={redo} title={job.redo && `Redo: ${job.redo}`}>
          Redo <kbd>Shift+U</kbd>
        </Button>
        <Button type="text" onClick={save}>
          Save a copy
        </Button>
        <Button type="text" onClick={() => setPalette(true)}>
          Find an action <kbd>K</kbd>
        </Button>
        <span ref={holdSlot} />
      </header>
      <Rail job={job} sheet={sheet} />
      <main className="stage">
        <Suspense fallback={<Spin />}>
          <Outlet context={job} />
        </Suspense>
      </main>
      <Palette open={palette} setOpen={setPalette} />
      {recipe && (
        <Suspense fallback={<Spin fullscreen />}>
          <RecipeEditor sets={[...job.document.pens, ...(pens?.shipped ?? [])]} />
        </Suspense>
      )}
    </div>
  );
}

/** A job with its bar and rail around whichever stop is open. */
export function JobFrame() {
  const id = Number(useParams().job);
  const { data: job, error } = useJob(id);
  // a server that is away for a moment takes nothing off the desk
  if (error && (!job || (error instanceof Refusal && error.status === 404))) {
    return (
      <Stopped title="This job cannot be opened" text={said(error)}>
        <Link to="/">
          <Button type="primary">All jobs</Button>
        </Link>
      </Stopped>
    );
  }
  if (!job) return <Spin fullscreen description="Opening the job" />;
  return <OpenJob job={job} />;
}

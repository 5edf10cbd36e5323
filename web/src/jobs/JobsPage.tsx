import { dayOf } from "../common/dates";
import { useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Popconfirm, Spin, Upload } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, said, send, settled, signOut, type Job } from "../api/client";
import { useNews } from "../api/news";
import { useJobs, usePreparing, useTrade } from "../api/queries";
import { useGuide } from "../guide/useGuide";
import { Thumbnail } from "../paper/Thumbnail";
import * as texts from "./texts";

const many = (n: number, word: string) => `${n || "no"} ${word}${n === 1 ? "" : "s"}`;

function JobRow({ job, forget }: { job: Job; forget: () => void }) {
  const { sources = [], sheets = [] } = job.document;
  const { data: trade } = useTrade();
  const first = sheets[0];
  const away = (
    <Popconfirm title={texts.deleteWithAllItsSheets(job.document.name)} okText={texts.deleteWord} onConfirm={forget}>
      <Button type="text" aria-label={texts.deleteWord2(job.document.name)}>
        {texts.deleteWord}
      </Button>
    </Popconfirm>
  );
  // one that cannot be read says why; the others are as they were
  if (job.problem)
    return (
      <li className="job broken">
        <div>
          <span className="number">{job.number}</span>
          <span />
          <span className="what">
            <strong>{job.document.name}</strong>
            <span role="alert">{job.problem}</span>
          </span>
        </div>
        {away}
      </li>
    );
  return (
    <li className="job">
      <Link to={`/jobs/${job.id}/${sheets.length ? `sheets/${sheets[0]?.id}` : "source"}`}>
        <span className="number">{job.number}</span>
        <span>{trade && first && <Thumbnail job={job} sheet={first} />}</span>
        <span className="what">
          <strong>{job.document.name}</strong>
          <span className="soft">{sources.map((source) => source.name).join(", ") || texts.noSourceYet}</span>
        </span>
        <span className="formats">
          {sheets.map((sheet) => (
            <span key={sheet.id} className="format">
              {sheet.name} <em>{sheet.format}</em>
            </span>
          ))}
        </span>
        <span className="soft">
          {many(sheets.length, "sheet")} {texts.changed} {dayOf(job.changed)}
        </span>
      </Link>
      {away}
    </li>
  );
}

/** All jobs, and a new one. */
export function JobsPage() {
  const { data: jobs, error } = useJobs();
  useNews();
  const { data: trade } = useTrade();
  const preparing = usePreparing();
  const client = useQueryClient();
  const navigate = useNavigate();
  const { message } = App.useApp();
  const [name, setName] = useState("");
  const guide = useGuide("");

  const create = async () => {
    try {
      const job = settled<Job>(await api.POST("/api/jobs", { body: { name: name.trim() || "Untitled job" } }));
      await client.invalidateQueries({ queryKey: ["jobs"] });
      await navigate(`/jobs/${job.id}/source`);
    } catch (problem) {
      void message.error(said(problem as Error));
    }
  };
  const open = async (file: File) => {
    try {
      const job = await send<Job>("/api/jobs/open", file);
      await client.invalidateQueries({ queryKey: ["jobs"] });
      await navigate(`/jobs/${job.id}/source`);
    } catch (problem) {
      void message.error(said(problem as Error));
    }
  };
  /** Files that are dropped anywhere: a saved job is opened, of anything else a job is made. */
  const take = async (files: File[]) => {
    const [first] = files;
    if (!first) return;
    if (files.length === 1 && first.name.toLowerCase().endsWith(".zip")) return open(first);
    try {
      const job = settled<Job>(await api.POST("/api/jobs", { body: { name: first.name.replace(/\.[^.]+$/, "").slice(0, 120) || first.name } }));
      for (const file of files) await send(`/api/jobs/${job.id}/incoming?${new URLSearchParams({ name: file.name })}`, file);
      await navigate(`/jobs/${job.id}/source`);
    } catch (problem) {
      void message.error(said(problem as Error));
    }
    await client.invalidateQueries({ queryKey: ["jobs"] });
  };
  const forget = async (job: Job) => {
    await api.DELETE("/api/jobs/{job_id}", { params: { path: { job_id: job.id } } });
    await client.invalidateQueries({ queryKey: ["jobs"] });
  };

  return (
    <div
      className="jobs-page"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        void take([...event.dataTransfer.files]);
      }}
    >
      <header>
        <img src="/mark.svg" alt="" width={34} height={34} />
        <div>
          <h1>{texts.skalto}</h1>
          <p className="soft">{texts.drawingsAtTrueScaleAnd}</p>
        </div>
        <span className="spring" />
        <Button type="text" onClick={guide.open}>
          {texts.guide}
        </Button>
        {guide.guide}
        <Link to="/drawings">{texts.drawings}</Link>
        <Link to="/register">{texts.registerOfIssues}</Link>
        {trade?.signed_in && (
          <Button type="text" onClick={() => void signOut()}>
            {texts.signOut}
          </Button>
        )}
        <Upload beforeUpload={(file) => (void open(file), false)} showUploadList={false} accept=".zip">
          <Button>{texts.openASavedJob}</Button>
        </Upload>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void create();
          }}
        >
          <Input aria-label={texts.nameOfTheNewJob} placeholder={texts.nameOfANewJob} value={name} onChange={(e) => setName(e.target.value)} />
          <Button type="primary" htmlType="submit">
            {texts.newJob}
          </Button>
        </form>
      </header>
      {error && <p role="alert">{error.message}</p>}
      {!jobs && !error && <Spin />}
      {preparing && (
        <p className="preparing" role="status">
          <Spin size="small" /> {texts.theDemoJobsAreBeing} {preparing.charAt(0).toLowerCase() + preparing.slice(1)}
          {texts.everythingElseWorksMeanwhile}
        </p>
      )}
      {jobs && !jobs.length && !preparing && <p className="empty">{texts.noJobYetNameOne}</p>}
      <ul className="jobs">
        {jobs?.map((job) => (
          <JobRow key={job.id} job={job} forget={() => void forget(job)} />
        ))}
      </ul>
    </div>
  );
}

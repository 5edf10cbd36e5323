import { keepPreviousData } from "@tanstack/react-query";
import { itself, useChange } from "./change";
import { api, settled, type Job, type Schemas } from "./client";
import { pace } from "./news";
import { useQuery } from "./asking";

export type PartRow = Schemas["PartRow"];
export type PartKind = Schemas["PartKind"];
export type OwnField = Schemas["OwnField"];
export type MarkSeries = Schemas["MarkSeries"];
export type Numbering = Schemas["NumberingView"];
export type Answer = Required<Schemas["NumberingAnswer"]>;

export const KINDS: readonly PartKind[] = ["plate", "bent sheet", "rolled sheet", "turned", "profile", "part", "bought", "assembly"];

/** The parts register of a job. */
export const useParts = (job: Job) =>
  useQuery({
    queryKey: ["parts", job.id, job.state],
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    queryFn: async () => settled<Schemas["RegisterRows"]>(await api.GET("/api/jobs/{job_id}/parts", { params: { path: { job_id: job.id } } })),
    refetchInterval: (query) => (query.state.data?.work && query.state.data.work.state !== "failed" ? pace() : false),
  });

/** What numbering the parts would come to, with what is answered so far. */
export const useNumbering = (job: Job, answer: Answer) =>
  useQuery({
    queryKey: ["numbering", job.id, job.state, JSON.stringify(answer)],
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: async () => settled<Numbering>(await api.POST("/api/jobs/{job_id}/numbering", { params: { path: { job_id: job.id } }, body: answer })),
  });

export const useGiveMarks = (id: number) =>
  useChange(id, async (answer: Answer) => settled<Job>(await api.POST("/api/jobs/{job_id}/marks", { params: { path: { job_id: id } }, body: answer })), itself);

/** The numbers that a pattern finds in the names of parts; `pattern` may be empty while it is typed. */
export const useNumbersInNames = (job: Job, pattern: string) =>
  useQuery({
    queryKey: ["numbers-in-names", job.id, job.state, pattern],
    enabled: !!pattern,
    retry: false,
    queryFn: async () =>
      settled<Schemas["NumbersInNames"]>(await api.POST("/api/jobs/{job_id}/numbers-in-names", { params: { path: { job_id: job.id } }, body: { pattern } })),
  });

export const useTakeNumbers = (id: number) =>
  useChange(
    id,
    async (pattern: string) =>
      settled<Schemas["TableTaken"]>(await api.POST("/api/jobs/{job_id}/numbers", { params: { path: { job_id: id } }, body: { pattern } })),
    (taken) => taken.job,
  );

/** Takes a table in, as one step. */
export const useTakeTable = (id: number) =>
  useChange(
    id,
    async (text: string) =>
      settled<Schemas["TableTaken"]>(await api.POST("/api/jobs/{job_id}/parts.csv", { params: { path: { job_id: id } }, body: { text } })),
    (taken) => taken.job,
  );

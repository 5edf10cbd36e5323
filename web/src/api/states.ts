import { itself, useChange } from "./change";
import { api, settled, type Job, type Schemas } from "./client";
import { useQuery } from "./asking";

/** The state in which each part and sheet of a job is, by ``part:…`` and ``sheet:…``. */
export const useStates = (job: number) =>
  useQuery({
    queryKey: ["states", job],
    queryFn: async () => settled<Schemas["StateLine"][]>(await api.GET("/api/jobs/{job_id}/states", { params: { path: { job_id: job } } })),
    select: (rows) => new Map(rows.map((row) => [row.subject, row] as const)),
  });

export const useNextRevision = (job: number) =>
  useChange(
    job,
    async (wish: Schemas["RevisionWish"]) => settled<Job>(await api.POST("/api/jobs/{job_id}/revisions", { params: { path: { job_id: job } }, body: wish })),
    itself,
  );

import { useMutation } from "@tanstack/react-query";
import { handOver } from "../common/handOver";
import { api, settled, type Drawing, type Job, type Region, type Report, type Schemas } from "./client";
import { pace } from "./news";
import { useChange } from "./change";
import { useTell } from "./tell";
import { useQuery } from "./asking";

/** What a drawing holds, and the millimetres of its unit in this job. */
export function useDrawing(job: Job, source: string | undefined) {
  const said = job.document.sources.find((s) => s.id === source)?.unit_mm;
  return useQuery({
    queryKey: ["drawing", job.id, source, said],
    enabled: source !== undefined,
    staleTime: Infinity,
    queryFn: async () =>
      settled<Drawing>(await api.GET("/api/jobs/{job_id}/sources/{source}/drawing", { params: { path: { job_id: job.id, source: source as string } } })),
  });
}

/** One picture of a drawing, all layers, in its own units. */
export function useSpacePicture(source: string, space: string) {
  return useQuery({
    queryKey: ["space", source, space],
    staleTime: Infinity,
    queryFn: async () =>
      settled<Schemas["PictureState"]>(await api.GET("/api/sources/{source}/drawing/picture", { params: { path: { source }, query: { space } } })),
    refetchInterval: (query) => {
      const data = query.state.data;
      return !data || data.picture || data.work?.state === "failed" ? false : pace();
    },
  });
}

/** Ends and centres of a drawing, in its own units, while they are wanted. */
export function useDrawingPoints(source: string, space: string, wanted: boolean) {
  return useQuery({
    queryKey: ["drawing-points", source, space],
    enabled: wanted,
    staleTime: Infinity,
    queryFn: async () =>
      settled<Schemas["DrawingPoints"]>(await api.GET("/api/sources/{source}/drawing/points", { params: { path: { source }, query: { space } } })),
  });
}

export interface ExcerptRequest {
  source: string;
  sheet: string | null;
  space: string;
  region: Region | null;
  declared: boolean;
  off: string[];
  name: string;
}

export function usePutExcerpt(job: number) {
  return useChange(
    job,
    async (body: ExcerptRequest) => settled<Schemas["Placed"]>(await api.POST("/api/jobs/{job_id}/excerpts", { params: { path: { job_id: job } }, body })),
    (placed) => placed.job,
  );
}

export function usePutPage(job: number) {
  return useChange(
    job,
    async (body: Schemas["PageRequest"]) => settled<Schemas["Placed"]>(await api.POST("/api/jobs/{job_id}/pages", { params: { path: { job_id: job } }, body })),
    (placed) => placed.job,
  );
}

/** Make sheets of all pages of a drawing, in order. */
export function usePutPages(job: number) {
  return useChange(
    job,
    async (body: Schemas["PagesRequest"]) =>
      settled<Schemas["PlacedPages"]>(await api.POST("/api/jobs/{job_id}/pages/all", { params: { path: { job_id: job } }, body })),
    (placed) => placed.job,
  );
}

/** The texts of an excerpt, asked for anew after every change of it. */
export function useExcerptTexts(job: number, sheet: string, view: string, excerpt: unknown, wanted: boolean) {
  return useQuery({
    queryKey: ["texts", job, sheet, view, JSON.stringify(excerpt)],
    enabled: wanted,
    placeholderData: (last: Schemas["ExcerptText"][] | undefined) => last,
    queryFn: async () =>
      settled<Schemas["ExcerptText"][]>(
        await api.GET("/api/jobs/{job_id}/sheets/{sheet}/views/{view}/texts", { params: { path: { job_id: job, sheet, view } } }),
      ),
  });
}

/** A page of a drawing as a small picture. */
export function usePreview(source: string, space: string, wanted: boolean) {
  return useQuery({
    queryKey: ["preview", source, space],
    enabled: wanted,
    staleTime: Infinity,
    queryFn: async () =>
      settled<Schemas["PreviewState"]>(await api.GET("/api/sources/{source}/drawing/preview", { params: { path: { source }, query: { space } } })),
    refetchInterval: (query) => {
      const data = query.state.data;
      return !data || data.png || data.work?.state === "failed" ? false : pace();
    },
  });
}

/** Say how long a distance between two points of a drawing really is. */
export function useSayLength(job: number, source: string) {
  return useChange(
    job,
    async (body: Schemas["MeasuredRequest"]) =>
      settled<Schemas["MeasuredAnswer"]>(await api.POST("/api/jobs/{job_id}/sources/{source}/measured", { params: { path: { job_id: job, source } }, body })),
    (answer) => answer.job,
  );
}

const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/** Write something at the server, ask until it is there, and hand it over. */
async function made<State extends { ready: boolean }>(ask: () => Promise<State>): Promise<State> {
  for (;;) {
    const state = await ask();
    if (state.ready) return state;
    await wait(pace());
  }
}

/** A sheet, or one view of it, as a DXF or SVG file. */
export function useArtwork(job: number, sheet: string) {
  return useMutation({
    mutationFn: async ({ suffix, view = "" }: { suffix: "dxf" | "svg"; view?: string }) => {
      const path = { job_id: job, sheet };
      await made(async () =>
        settled<Schemas["ArtworkState"]>(await api.POST("/api/jobs/{job_id}/sheets/{sheet}/artwork", { params: { path, query: { suffix, view } } })),
      );
      handOver(`/api/jobs/${job}/sheets/${sheet}/artwork?suffix=${suffix}&view=${encodeURIComponent(view)}`);
    },
    onError: useTell(),
  });
}

/** All sheets of the job, in order, as one PDF; gives what was measured in it. */
export function useWhole(job: number) {
  return useMutation({
    mutationFn: async (): Promise<Report | null> => {
      const state = await made(async () => settled<Schemas["WholeState"]>(await api.POST("/api/jobs/{job_id}/whole", { params: { path: { job_id: job } } })));
      handOver(`/api/jobs/${job}/whole.pdf`);
      return state.report ?? null;
    },
    onError: useTell(),
  });
}

import { keepPreviousData, useQueryClient } from "@tanstack/react-query";
import { api, settled, type EdgeOnSheet, type Item, type Job, type Schemas, type View, type Writing } from "./client";
import { modelOf } from "./content";
import { afterPictures, pace } from "./news";
import { itself, useChange } from "./change";
import { useQuery } from "./asking";

/** All that is on a sheet beside its views' own lines. */
export function useWriting(job: Job, sheet: string) {
  const client = useQueryClient();
  return useQuery({
    queryKey: ["writing", job.id, sheet, job.state],
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    queryFn: async () => {
      await afterPictures(client);
      return settled<Writing>(await api.GET("/api/jobs/{job_id}/sheets/{sheet}/writing", { params: { path: { job_id: job.id, sheet } } }));
    },
    refetchInterval: (query) => (query.state.data?.pending.length ? pace() : false),
  });
}

/** The edges of a view that a dimension can be attached to, while they are wanted. */
export function useEdges(job: Job, sheet: string, view: View | null, wanted: boolean) {
  return useQuery({
    queryKey: ["edges", job.id, sheet, view?.id, job.state],
    enabled: wanted && !!view,
    staleTime: Infinity,
    queryFn: async () =>
      settled<EdgeOnSheet[] | null>(
        await api.GET("/api/jobs/{job_id}/sheets/{sheet}/views/{view}/edges", {
          params: { path: { job_id: job.id, sheet, view: view?.id as string } },
        }),
      ),
    refetchInterval: (query) => (query.state.data === null ? pace() : false),
  });
}

/** The views that could be pulled from a view, while they are wanted. */
export function usePulls(job: Job, sheet: string, view: View | null, wanted: boolean) {
  return useQuery({
    queryKey: ["pulls", job.id, sheet, view?.id, job.state],
    enabled: wanted && !!view,
    staleTime: Infinity,
    queryFn: async () =>
      settled<Schemas["PullView"][]>(
        await api.GET("/api/jobs/{job_id}/sheets/{sheet}/views/{view}/pulls", {
          params: { path: { job_id: job.id, sheet, view: view?.id as string } },
        }),
      ),
  });
}

export function useScales(job: Job, sheet: string, view: View) {
  const client = useQueryClient();
  return useQuery({
    queryKey: ["scales", job.id, sheet, view.id, job.state],
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    queryFn: async () => {
      await afterPictures(client);
      return settled<Schemas["ScalesView"] | null>(
        await api.GET("/api/jobs/{job_id}/sheets/{sheet}/views/{view}/scales", { params: { path: { job_id: job.id, sheet, view: view.id } } }),
      );
    },
    refetchInterval: (query) => (query.state.data === null ? pace() : false),
  });
}

export function useShade(job: Job, sheet: string, view: View) {
  return useQuery({
    queryKey: ["shade", job.id, sheet, view.id, view.scale, modelOf(view), job.document.colours],
    enabled: !!modelOf(view)?.shaded,
    staleTime: Infinity,
    queryFn: async () =>
      settled<Schemas["ShadeView"]>(
        await api.GET("/api/jobs/{job_id}/sheets/{sheet}/views/{view}/shade", { params: { path: { job_id: job.id, sheet, view: view.id } } }),
      ),
    refetchInterval: (query) => (query.state.data && !query.state.data.url ? pace() : false),
  });
}

export function useItems(job: Job, source: string | undefined) {
  return useQuery({
    queryKey: ["items", job.id, source, job.state],
    enabled: source !== undefined,
    placeholderData: keepPreviousData,
    queryFn: async () =>
      settled<Item[]>(await api.GET("/api/jobs/{job_id}/sources/{source}/items", { params: { path: { job_id: job.id, source: source as string } } })),
  });
}

export function useOwnFormats() {
  return useQuery({ queryKey: ["own-formats"], queryFn: async () => settled<Record<string, string>>(await api.GET("/api/formats/own")) });
}

export async function keepFormat(name: string, size: string): Promise<void> {
  settled(await api.PUT("/api/formats/own", { body: { name, size } }));
}

export async function dropFormat(name: string): Promise<void> {
  settled(await api.DELETE("/api/formats/own", { params: { query: { name } } }));
}

type Point = [number, number];

/** What is done to a view at the desk and gives another: pull one away, cut a section, circle a detail. */
export type Offspring =
  | { kind: "pull"; view: string; place: Point }
  | { kind: "section"; view: string; start: Point; end: Point }
  | { kind: "detail"; view: string; centre: Point; radius: number };

export function useOffspring(job: number, sheet: string) {
  return useChange(
    job,
    async (wish: Offspring) => {
      const params = { params: { path: { job_id: job, sheet, view: wish.view } } };
      const at = "/api/jobs/{job_id}/sheets/{sheet}/views/{view}" as const;
      if (wish.kind === "pull") return settled<Schemas["Placed"]>(await api.POST(`${at}/pull`, { ...params, body: { place: wish.place } }));
      if (wish.kind === "section")
        return settled<Schemas["Placed"]>(await api.POST(`${at}/section`, { ...params, body: { start: wish.start, end: wish.end } }));
      return settled<Schemas["Placed"]>(await api.POST(`${at}/detail`, { ...params, body: { centre: wish.centre, radius: wish.radius } }));
    },
    (placed) => placed.job,
  );
}

export function useDimension(job: number, sheet: string) {
  return useChange(
    job,
    async ({ view, ...body }: Schemas["DimensionRequest"] & { view: string }) =>
      settled<Job>(await api.POST("/api/jobs/{job_id}/sheets/{sheet}/views/{view}/dimensions", { params: { path: { job_id: job, sheet, view } }, body })),
    itself,
  );
}

export function useShiftDimension(job: number, sheet: string) {
  return useChange(
    job,
    async ({ view, dimension, by }: { view: string; dimension: string; by: Point }) =>
      settled<Job>(
        await api.POST("/api/jobs/{job_id}/sheets/{sheet}/views/{view}/dimensions/{dimension}/shift", {
          params: { path: { job_id: job, sheet, view, dimension } },
          body: { place: by },
        }),
      ),
    itself,
  );
}

export function useOverall(job: number, sheet: string) {
  return useChange(
    job,
    async (view: string) =>
      settled<Job>(await api.POST("/api/jobs/{job_id}/sheets/{sheet}/views/{view}/overall", { params: { path: { job_id: job, sheet, view } } })),
    itself,
  );
}

/** Cut a sheet to its contents, with a margin around them, mm. */
export function useFit(job: number, sheet: string) {
  return useChange(
    job,
    async (margin: number) =>
      settled<Job>(await api.POST("/api/jobs/{job_id}/sheets/{sheet}/fit", { params: { path: { job_id: job, sheet } }, body: { margin } })),
    itself,
  );
}

export function useAlign(job: number, sheet: string) {
  return useChange(
    job,
    async (body: Schemas["AlignRequest"]) =>
      settled<Job>(await api.POST("/api/jobs/{job_id}/sheets/{sheet}/align", { params: { path: { job_id: job, sheet } }, body })),
    itself,
  );
}

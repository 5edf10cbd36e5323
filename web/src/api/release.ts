import { keepPreviousData, useMutation, useQueryClient } from "@tanstack/react-query";
import { useChange } from "./change";
import { api, settled, type Job, type Schemas } from "./client";
import { pace } from "./news";
import { useTell } from "./tell";
import { useQuery } from "./asking";

export type Rules = Schemas["ReleaseRules"];
export type FileRule = Schemas["FileRule"];
export type FileKind = Schemas["FileKind"];
export type Wish = Schemas["WishedRelease"];
export type Release = Schemas["ReleaseView"];
export type ReleaseFile = Schemas["ReleaseFileView"];
export type State = Schemas["State"];
export type Template = Schemas["TemplateSheet"];
export type Subject = FileRule["of"][number];

export const STATES: readonly State[] = ["in work", "in review", "released", "withdrawn"];
export const FILE_KINDS: readonly FileKind[] = ["PDF", "flat-pattern DXF", "profile DXF", "STEP", "glTF", "HTML", "3D PDF", "parts list CSV"];

export const useRules = () =>
  useQuery({ queryKey: ["release-rules"], staleTime: Infinity, queryFn: async () => settled<Rules[]>(await api.GET("/api/release-rules")) });

export function useKeepRules() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (rules: Rules) => settled<Rules>(await api.PUT("/api/release-rules", { body: rules })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["release-rules"] }),
    onError: useTell(),
  });
}

export function useDropRules() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (rules: string) => settled(await api.DELETE("/api/release-rules/{rules}", { params: { path: { rules } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["release-rules"] }),
    onError: useTell(),
  });
}

/** Rules out of a file, under a name that is free; not kept yet. */
export const useReadRules = () =>
  useMutation({
    mutationFn: async (text: string) => settled<Rules>(await api.POST("/api/release-rules/read", { body: { text } })),
    onError: useTell(),
  });

/** What a release would make. */
export const useReleasePreview = (job: Job, wish: Wish, rules: Rules | undefined) =>
  useQuery({
    queryKey: ["release-preview", job.id, job.state, JSON.stringify(wish), rules?.version],
    placeholderData: keepPreviousData,
    retry: false,
    refetchInterval: (query) => (query.state.data?.work ? pace() : false),
    queryFn: async () =>
      settled<Schemas["ReleasePreview"]>(await api.POST("/api/jobs/{job_id}/release-preview", { params: { path: { job_id: job.id } }, body: wish })),
  });

const under_way = (release: Release) => release.state === "running";

/** Releases of a job, the newest first. */
export const useReleases = (job: number) =>
  useQuery({
    queryKey: ["releases", job],
    queryFn: async () => settled<Release[]>(await api.GET("/api/releases", { params: { query: { job } } })),
    refetchInterval: (query) => (query.state.data?.some(under_way) ? pace() : false),
  });

/** A page of a release's files. */
export const useReleaseFiles = (release: Release, state: string, text: string, begin: number, count: number) =>
  useQuery({
    queryKey: ["releases", "files", release.id, state, text, begin, count],
    placeholderData: keepPreviousData,
    queryFn: async () =>
      settled<Schemas["ReleaseFiles"]>(
        await api.GET("/api/releases/{release}/files", { params: { path: { release: release.id }, query: { state, text, begin, count } } }),
      ),
    refetchInterval: under_way(release) ? () => pace() : false,
  });

export function useBeginRelease(job: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (wish: Wish) => settled<Release>(await api.POST("/api/jobs/{job_id}/releases", { params: { path: { job_id: job } }, body: wish })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["releases"] }),
    onError: useTell(),
  });
}

export type Act = "pause" | "resume" | "cancel" | "retry";

/** Pauses a release, goes on with it, calls it off, or tries again what failed; one file alone where one is named. */
export function useReleaseAct() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (wish: { release: number; act: Act } | { release: number; file: number; act: "retry" | "first" }) =>
      "file" in wish
        ? settled<Release>(
            await api.POST("/api/releases/{release}/files/{file}/{act}", {
              params: { path: { release: wish.release, file: wish.file, act: wish.act } },
            }),
          )
        : settled<Release>(await api.POST("/api/releases/{release}/{act}", { params: { path: { release: wish.release, act: wish.act } } })),
    onSettled: () => client.invalidateQueries({ queryKey: ["releases"] }),
    onError: useTell(),
  });
}

/** The log of a job's states, the newest first. */
export const useStateLog = (job: number, wanted: boolean) =>
  useQuery({
    queryKey: ["states", job, "log"],
    enabled: wanted,
    queryFn: async () => settled<Schemas["StateLine"][]>(await api.GET("/api/jobs/{job_id}/states/log", { params: { path: { job_id: job } } })),
  });

export function useSetState(job: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (wish: Schemas["StateWish"]) =>
      settled<Schemas["StateSet"]>(await api.POST("/api/jobs/{job_id}/states", { params: { path: { job_id: job } }, body: wish })),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["states"] });
      await client.invalidateQueries({ queryKey: ["job", job] });
      await client.invalidateQueries({ queryKey: ["releases"] });
      // the title block says the state
      await client.invalidateQueries({ queryKey: ["writing", job] });
      await client.invalidateQueries({ queryKey: ["proof"] });
    },
    onError: useTell(),
  });
}

export const useTemplates = () =>
  useQuery({ queryKey: ["templates"], staleTime: Infinity, queryFn: async () => settled<Template[]>(await api.GET("/api/templates")) });

/** Saves a sheet as a template. */
export function useSaveTemplate(job: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async ({ sheet, name }: { sheet: string; name: string }) =>
      settled<Template>(await api.POST("/api/jobs/{job_id}/sheets/{sheet}/template", { params: { path: { job_id: job, sheet } }, body: { name } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["templates"] }),
    onError: useTell(),
  });
}

/** A sheet for each of some parts, as one step. */
export const useMakeSheets = (job: number) =>
  useChange(
    job,
    async (wish: Schemas["SheetsWish"]) =>
      settled<Schemas["SheetsMade"]>(await api.POST("/api/jobs/{job_id}/part-sheets", { params: { path: { job_id: job } }, body: wish })),
    (made) => made.job,
  );

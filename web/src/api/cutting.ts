import { keepPreviousData, useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { useChange } from "./change";
import { api, settled, type Job, type Schemas, type Sheet } from "./client";
import { pace } from "./news";
import { useTell } from "./tell";
import { useQuery } from "./asking";

export type CutList = Schemas["CutList"];
export type PlacedProfile = Schemas["PlacedProfile"];
export type ProfilePicture = Schemas["ProfilePicture"];
export type Cutter = Schemas["Machine"];
export type Decoration = Schemas["Decoration"];
export type DecorationPicture = Schemas["DecorationPicture"];
export type Arrangement = Schemas["ArrangementState"];

const waits = (data: { work?: Schemas["WorkState"] | null } | undefined, there: boolean) =>
  data && !there && data.work?.state !== "failed" && data.work?.state !== "cancelled" ? pace() : false;

/** The cutting list that a sheet is a plate of. */
export const listOf = (job: Job, sheet: Sheet): CutList | undefined => job.document.cut_lists.find((own) => own.id === sheet.cutting?.cut_list);

/** What is drawn on the plates of a sheet's cutting list themselves. */
export const drawnOnPlates = (job: Job, sheet: Sheet): Decoration[] =>
  job.document.sheets.flatMap((own) => (own.cutting && own.cutting.cut_list === sheet.cutting?.cut_list ? own.cutting.decorations : []));

/** Which parts of a model are flat plates; `wanted` while somebody asks. */
export function useFlatParts(source: string, wanted: boolean) {
  return useQuery({
    queryKey: ["flat-parts", source],
    enabled: wanted,
    retry: false,
    staleTime: Infinity,
    queryFn: async () => settled<Schemas["FlatParts"]>(await api.GET("/api/sources/{source}/flat-parts", { params: { path: { source } } })),
    refetchInterval: (query) => waits(query.state.data, !!query.state.data?.parts),
  });
}

export function useMakeCutList(id: number) {
  return useChange(
    id,
    async (wish: Schemas["NewCutList"]) =>
      settled<Schemas["MadeCutList"]>(await api.POST("/api/jobs/{job_id}/cut-lists", { params: { path: { job_id: id } }, body: wish })),
    (made) => made.job,
  );
}

/** The profiles of a cutting list's parts, by part, with what is `drawn` on the plate itself. */
export function useProfiles(job: number, list: CutList | undefined, drawn: readonly Decoration[] = []) {
  return useQuery({
    queryKey: ["profiles", job, list?.id, JSON.stringify([list?.parts.map((part) => [part.id, part.origin, part.decorations]), drawn])],
    enabled: !!list,
    retry: false,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: async () =>
      settled<Schemas["Profiles"]>(
        await api.GET("/api/jobs/{job_id}/cut-lists/{cut_list}/profiles", { params: { path: { job_id: job, cut_list: list?.id as string } } }),
      ),
    refetchInterval: (query) => waits(query.state.data, !!query.state.data?.profiles),
  });
}

/** Engraves a drawing, or what a view shows of it, on a part or on the plate itself. */
export function useDrawOn(id: number, sheet: string) {
  return useChange(
    id,
    async (wish: { source: string; view: string; part: string }) =>
      settled<Schemas["Drawn"]>(
        await api.POST("/api/jobs/{job_id}/sheets/{sheet_id}/decorations", { params: { path: { job_id: id, sheet_id: sheet } }, body: wish }),
      ),
    (made) => made.job,
  );
}

const CUTTER = ["cutter"];

/** The cutter's settings. */
export function useCutter() {
  return useQuery({ queryKey: CUTTER, queryFn: async () => settled<Cutter>(await api.GET("/api/cutter")) });
}

export function useShippedCutter() {
  return useQuery({ queryKey: ["cutter", "shipped"], staleTime: Infinity, queryFn: async () => settled<Cutter>(await api.GET("/api/cutter/shipped")) });
}

/** Keeps the cutter's settings; what they decide is asked for anew. */
export function useKeepCutter() {
  const client = useQueryClient();
  const tell = useTell();
  return useMutation({
    mutationFn: async (cutter: Cutter) => settled<Cutter>(await api.PUT("/api/cutter", { body: cutter })),
    onSuccess: (kept) => {
      client.setQueryData(CUTTER, kept);
      return client.invalidateQueries({ predicate: ({ queryKey }) => ["plate", "proof", "cutter-run"].includes(String(queryKey[0])) });
    },
    onError: tell,
  });
}

/** Gives a plate of a list the outline of a drawing, or '' to make it whole again. */
export function useRemnant(id: number, list: string) {
  return useChange(
    id,
    async ({ plate, source }: { plate: number; source: string }) =>
      settled<Job>(
        await api.PUT("/api/jobs/{job_id}/cut-lists/{cut_list}/plates/{plate}/remnant", {
          params: { path: { job_id: id, cut_list: list, plate } },
          body: { source },
        }),
      ),
    (job) => job,
  );
}

/** What a plate is worth as it lies, and what is wrong on it. */
export function usePlateFigures(job: Job, sheet: string) {
  return useQuery({
    queryKey: ["plate", job.id, sheet, job.state],
    retry: false,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: async () =>
      settled<Schemas["PlateFigures"]>(await api.GET("/api/jobs/{job_id}/sheets/{sheet_id}/plate", { params: { path: { job_id: job.id, sheet_id: sheet } } })),
    refetchInterval: (query) => (query.state.data && !query.state.data.ready ? pace() : false),
  });
}

/** The finished file of a plate in the stand-in cutter; `key` names the file. */
export function useCutterRun(job: number, sheet: string, key: string | null) {
  return useQuery({
    queryKey: ["cutter-run", job, sheet, key],
    enabled: !!key,
    retry: false,
    staleTime: Infinity,
    structuralSharing: false,
    queryFn: async () =>
      settled<Schemas["CutterRun"]>(await api.GET("/api/jobs/{job_id}/sheets/{sheet_id}/cutter-run", { params: { path: { job_id: job, sheet_id: sheet } } })),
    refetchInterval: (query) => waits(query.state.data, !!query.state.data?.report),
  });
}

/**
 * Arranging the parts of a list: the best so far while it gets better. It ends by itself or is stopped; what was found is handed
 * to `done` once.
 */
export function useArranging(job: number, list: string, done: (found: Arrangement) => void) {
  const [asked, setAsked] = useState<{ seconds: number; seed: number } | null>(null);
  // another each time, or the same would come again
  const seed = useRef(0);
  const tell = useTell();
  const finish = useRef(done);
  finish.current = done;
  const where = { path: { job_id: job, cut_list: list } };
  const { data, error } = useQuery({
    queryKey: ["arranging", job, list, asked],
    enabled: !!asked,
    retry: false,
    gcTime: 0,
    queryFn: async () =>
      settled<Arrangement>(
        await api.POST("/api/jobs/{job_id}/cut-lists/{cut_list}/arrangement", { params: { ...where, query: asked as { seconds: number; seed: number } } }),
      ),
    refetchInterval: (query) => waits(query.state.data, !!query.state.data?.last),
  });
  useEffect(() => {
    if (!asked) return;
    if (error) {
      setAsked(null);
      tell(error);
    } else if (data?.last) {
      setAsked(null);
      finish.current(data);
    } else if (data?.work?.state === "failed") {
      setAsked(null);
      tell(new Error(data.work.error));
    }
  }, [asked, data, error, tell]);
  const stop = useMutation({
    mutationFn: async (was: { seconds: number; seed: number }) =>
      settled<Arrangement>(await api.DELETE("/api/jobs/{job_id}/cut-lists/{cut_list}/arrangement", { params: { ...where, query: was } })),
    onSuccess: (found) => found.contents && finish.current(found),
    onError: tell,
  });
  return {
    /** The best so far, none before the first. */
    found: asked ? data : undefined,
    running: !!asked,
    start: useCallback((seconds: number) => setAsked({ seconds, seed: ++seed.current }), []),
    stop: () => {
      if (!asked) return;
      setAsked(null);
      stop.mutate(asked);
    },
  };
}

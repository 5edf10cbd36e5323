import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useChange } from "./change";
import { handOver } from "../common/handOver";
import { api, settled, type Job, type Schemas, type Sheet } from "./client";
import { pace } from "./news";
import type { Rows } from "../review/model";
import { useTell } from "./tell";
import { useQuery } from "./asking";

/** As the model has its axes. */
const UPRIGHT: Rows = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

export type Field = Schemas["Annotation3d"];
export type PreparedView = Schemas["PreparedView"];

const onSheet = (job: number, sheet: string) => ({ params: { path: { job_id: job, sheet } } });
const inField = (job: number, sheet: string, field: string) => ({ params: { path: { job_id: job, sheet, field } } });
const waits = (data: { work?: Schemas["WorkState"] | null } | undefined, there: boolean) =>
  data && !there && data.work?.state !== "failed" && data.work?.state !== "cancelled" ? pace() : false;

export function usePutAnnotation(id: number) {
  return useChange(
    id,
    async (wish: Schemas["Annotation3dRequest"]) =>
      settled<Schemas["PlacedAnnotation3d"]>(await api.POST("/api/jobs/{job_id}/fields", { params: { path: { job_id: id } }, body: wish })),
    (placed) => placed.job,
  );
}

/** What decides a field's model: not where it lies, nor its views. */
const contents = (job: Job, field: Field) => {
  const { choices } = field;
  return JSON.stringify([field.source, field.name, { ...choices, hidden: [...choices.hidden].sort() }, job.document.parts, job.document.colours]);
};

/** The same as it stands in its file, whichever way it is turned. */
const unturned = (job: Job, field: Field) => contents(job, { ...field, choices: { ...field.choices, orientation: UPRIGHT } });

/** The picture of a field on its sheet, and what goes into it; while a new one is made the old one stays, and is `stale`. */
export function useAnnotationPoster(job: Job, sheet: Sheet, field: Field) {
  const first = field.views.find((view) => view.id === field.default) ?? field.views[0];
  const last = useRef("");
  const query = useQuery({
    queryKey: ["poster", job.id, sheet.id, field.id, contents(job, field), field.size, field.frame, field.poster_dpi, first],
    retry: false,
    staleTime: Infinity,
    placeholderData: (before) => before,
    queryFn: async () =>
      settled<Schemas["Annotation3dState"]>(await api.GET("/api/jobs/{job_id}/sheets/{sheet}/fields/{field}/poster", inField(job.id, sheet.id, field.id))),
    refetchInterval: (query) => waits(query.state.data, !!query.state.data?.poster),
  });
  const { data } = query;
  useEffect(() => {
    if (data?.poster) last.current = data.poster;
  }, [data]);
  return { ...query, data: data && { ...data, poster: data.poster || last.current, stale: !data.poster } };
}

/** A field's model for the viewer, from its source. */
export function useAnnotationReview(job: Job, sheet: Sheet, field: Field) {
  return useQuery({
    queryKey: ["field-review", job.id, sheet.id, field.id, unturned(job, field)],
    retry: false,
    staleTime: Infinity,
    queryFn: async () =>
      settled<Schemas["Annotation3dState"]>(await api.GET("/api/jobs/{job_id}/sheets/{sheet}/fields/{field}/review", inField(job.id, sheet.id, field.id))),
    refetchInterval: (query) => waits(query.state.data, !!query.state.data?.pack),
  });
}

/** The 3D annotations of a finished file, decoded from it; `key` names the file. */
export function useProofSolids(job: number, sheet: string, key: string | null) {
  return useQuery({
    queryKey: ["proof-solids", key],
    enabled: !!key,
    retry: false,
    staleTime: Infinity,
    queryFn: async () => settled<Schemas["SolidsState"]>(await api.GET("/api/jobs/{job_id}/sheets/{sheet}/proof/solids", onSheet(job, sheet))),
    refetchInterval: (query) => waits(query.state.data, !!query.state.data?.packs.length || !query.state.data?.work),
  });
}

/** A review of the model at an address, turned; a model that is put away is fetched anew when it is wanted again. */
export function useReviewOf(address: string | undefined, orientation: Rows = UPRIGHT) {
  return useQuery({
    queryKey: ["pack", address, orientation],
    enabled: !!address,
    retry: false,
    staleTime: Infinity,
    gcTime: 60_000,
    structuralSharing: false,
    queryFn: async () => {
      const answer = await fetch(address as string);
      if (!answer.ok) throw new Error("The 3D model cannot be fetched: try it again.");
      // with the kernel of the 3D view, which the desk has no need of
      const [{ readPack }, { createReview }] = await Promise.all([import("../review/model"), import("../review/state")]);
      return createReview(readPack(await answer.arrayBuffer(), orientation));
    },
  });
}

/** Puts a section view on the sheet where a 3D annotation is cut. */
export function useSectionOf3d(id: number) {
  return useChange(
    id,
    async ({ sheet, field, ...wish }: { sheet: string; field: string } & Schemas["Section3dRequest"]) =>
      settled<Schemas["PlacedSection3d"]>(
        await api.POST("/api/jobs/{job_id}/sheets/{sheet}/fields/{field}/section", { ...inField(id, sheet, field), body: wish }),
      ),
    (placed) => placed.job,
  );
}

export type SolidSuffix = ".u3d" | ".glb" | ".html";

/** Has a field of the finished file written as a file of its own, and hands it to the browser to keep. */
export function useSolidFile(job: number, sheet: string) {
  return useMutation({
    mutationFn: async ({ number, suffix }: { number: number; suffix: SolidSuffix }) => {
      for (;;) {
        const { data, error, response } = await api.POST("/api/jobs/{job_id}/sheets/{sheet}/proof/solids/{number}/file", {
          params: { path: { job_id: job, sheet, number }, query: { suffix } },
        });
        if (settled<Schemas["FileState"]>({ data, error, response }).ready) break;
        await new Promise((done) => setTimeout(done, pace()));
      }
      handOver(`/api/jobs/${job}/sheets/${sheet}/proof/solids/${number}/file?suffix=${suffix}`);
    },
    onError: useTell(),
  });
}

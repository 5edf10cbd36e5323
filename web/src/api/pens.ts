import { useMutation } from "@tanstack/react-query";
import { api, send, settled, type Job, type Schemas } from "./client";
import { pace } from "./news";
import { useTell } from "./tell";
import { useQuery } from "./asking";

export type PenSet = Schemas["PenSet"];
export type PenRule = Schemas["PenRule"];
export type Stroke = Schemas["StrokeView"];

export function usePenFacts() {
  return useQuery({ queryKey: ["pens"], staleTime: Infinity, queryFn: async () => settled<Schemas["PenFacts"]>(await api.GET("/api/pens")) });
}

/** A sheet's pen set, how much each rule draws, and what comes out too light. */
export function useSheetPens(job: Job, sheet: string) {
  return useQuery({
    queryKey: ["sheet-pens", job.id, sheet, job.state],
    staleTime: Infinity,
    queryFn: async () => settled<Schemas["PensView"]>(await api.GET("/api/jobs/{job_id}/sheets/{sheet}/pens", { params: { path: { job_id: job.id, sheet } } })),
    refetchInterval: (query) => (query.state.data?.pending.length ? pace() : false),
  });
}

/** Which rule draws the stroke at a place of a sheet, mm. */
export function useStrokeAt(job: number, sheet: string) {
  return useMutation({
    mutationFn: async (point: { x: number; y: number; reach: number }) =>
      settled<Stroke | null>(await api.POST("/api/jobs/{job_id}/sheets/{sheet}/pens/at", { params: { path: { job_id: job, sheet } }, body: point })),
    onError: useTell(),
  });
}

/** A pen set out of its file, not kept yet. */
export function useReadPens(job: number) {
  return useMutation({
    mutationFn: (file: File) => send<PenSet>(`/api/jobs/${job}/pens/read`, file),
    onError: useTell(),
  });
}

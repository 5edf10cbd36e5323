import { keepPreviousData, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, settled, type Schemas } from "./client";
import type { Printer } from "./looks";
import { pace } from "./news";
import { useTell } from "./tell";
import { useQuery } from "./asking";

export type Drawing = Schemas["DrawingRow"];
export type DrawingKey = Schemas["DrawingKey"];
export type NamedDrawing = Schemas["NamedDrawing"];
export type DrawingsIssue = Schemas["DrawingsIssue"];
export type Standing = NonNullable<Wanted["standing"]>;
export type SortedBy = NonNullable<Wanted["by"]>;
/** What is looked for, and how it is sorted. */
export interface Wanted {
  text?: string;
  state?: Schemas["State"] | undefined;
  standing?: "" | "never proofed" | "changed since proof" | "never issued" | "changed since issue" | "never released";
  by?: "job" | "name" | "mark" | "number" | "title" | "revision" | "format" | "scale" | "state" | "proofed" | "issued" | "released";
  down?: boolean;
}

/** A page of the register of drawings. */
export const useDrawings = (wanted: Wanted, begin: number, count: number) =>
  useQuery({
    queryKey: ["drawings", wanted, begin, count],
    placeholderData: keepPreviousData,
    queryFn: async () => settled<Schemas["DrawingRows"]>(await api.GET("/api/drawing-register", { params: { query: { ...wanted, begin, count } } })),
  });

/** All that are looked for, by job and sheet. */
export const drawingKeys = async (wanted: Wanted) => settled<NamedDrawing[]>(await api.GET("/api/drawing-register/keys", { params: { query: { ...wanted } } }));

/** How far the proofs are that were asked for here. */
export function useProofsWanted() {
  const client = useQueryClient();
  return useQuery({
    queryKey: ["drawing-proofs"],
    queryFn: async () => {
      const state = settled<Schemas["ProofsWanted"]>(await api.GET("/api/drawing-register/proofs"));
      if (!state.left) void client.invalidateQueries({ queryKey: ["drawings"] });
      return state;
    },
    refetchInterval: (query) => (query.state.data?.left ? pace() : false),
  });
}

export function useProofDrawings() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (drawings: DrawingKey[]) => settled<Schemas["ProofsWanted"]>(await api.POST("/api/drawing-register/proofs", { body: { drawings } })),
    onSuccess: (state) => client.setQueryData(["drawing-proofs"], state),
    onError: useTell(),
  });
}

export function useIssueDrawings() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (body: { drawings: DrawingKey[]; wish: DrawingsIssue }) =>
      settled<Schemas["BegunIssues"]>(await api.POST("/api/drawing-register/issues", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["issues"] }),
    onError: useTell(),
  });
}

/** A sheet's proof as the stand-in printer prints it, as it is now. */
export const usePrintedDrawing = (drawing: DrawingKey, printer: Printer) =>
  useQuery({
    queryKey: ["printed-drawing", drawing, printer],
    retry: false,
    gcTime: 0,
    queryFn: async () =>
      settled<Schemas["PrintedState"]>(
        await api.POST("/api/jobs/{job_id}/sheets/{sheet}/proof/printed", {
          params: { path: { job_id: drawing.job, sheet: drawing.sheet } },
          body: printer,
        }),
      ),
    refetchInterval: (query) => (query.state.data && !query.state.data.printed ? pace() : false),
  });

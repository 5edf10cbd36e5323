import { keepPreviousData, useMutation, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, send, settled, type Edit, type Job, type Picture, type Schemas, type Trade, type Tree, type View } from "./client";
import { pace, seenHead } from "./news";
import { itself, useChange } from "./change";
import { asOf } from "./held";
import { foreseen } from "./foreseen";
import { useRefused } from "../common/reading";
import { withUnit } from "../common/unit";
import { useTell } from "./tell";
import { useQuery } from "./asking";

export function useTrade() {
  return useQuery({
    queryKey: ["trade"],
    queryFn: async () => settled<Trade>(await api.GET("/api/trade")),
    staleTime: Infinity,
  });
}

export function useJobs() {
  return useQuery({ queryKey: ["jobs"], queryFn: async () => settled<Job[]>(await api.GET("/api/jobs")) });
}

/** What the server makes by itself for its beginning; jobs that it has made come into the list. */
export function usePreparing() {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ["preparing"],
    queryFn: async () => settled<Schemas["Typed"]>(await api.GET("/api/preparing")).text,
    refetchInterval: (query) => (query.state.data ? 400 : false),
  });
  useEffect(() => void client.invalidateQueries({ queryKey: ["jobs"] }), [client, data]);
  return data ?? "";
}

const jobQuery = (id: number) => ({
  queryKey: ["job", id],
  queryFn: ({ client }: { client: QueryClient }) =>
    asOf(client, id, async () => settled<Job>(await api.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } }))),
});

export function useJob(id: number) {
  return useQuery(jobQuery(id));
}

/** What names the pens of a sheet: the set's id, and of a set of the job's own all that it says. */
function usePensKey(id: number, sheet: string, scale: string | undefined) {
  const select = (job: Job) => {
    const name = job.document.sheets.find((s) => s.id === sheet)?.pens;
    const own = job.document.pens.find((pens) => pens.id === name);
    return own ? JSON.stringify([own, own.scaled ? scale : ""]) : (name ?? "");
  };
  return useQuery({ ...jobQuery(id), select }).data ?? "";
}

export function useIncoming(id: number) {
  const client = useQueryClient();
  return useQuery({
    queryKey: ["incoming", id],
    queryFn: async () => {
      const before = client.getQueryData<{ id: number }[]>(["incoming", id]) ?? [];
      const now = settled<Schemas["IncomingView"][]>(await api.GET("/api/jobs/{job_id}/incoming", { params: { path: { job_id: id } } }));
      // a file that is no longer on its way has joined the job
      if (before.some((row) => !now.some((other) => other.id === row.id))) await client.invalidateQueries({ queryKey: ["job", id] });
      return now;
    },
    refetchInterval: (query) => (query.state.data?.some((row) => row.state === "reading") ? pace() : false),
  });
}

export function useTree(source: string | undefined) {
  return useQuery({
    queryKey: ["tree", source],
    enabled: source !== undefined,
    staleTime: Infinity,
    queryFn: async () => settled<Tree>(await api.GET("/api/sources/{source}/tree", { params: { path: { source: source as string } } })),
  });
}

/** A view's lines; while new ones are made the old ones stay. The server says by a key when they are others. */
export function usePicture(job: Pick<Job, "id" | "sheets">, sheet: string, view: View | null | undefined) {
  const last = useRef<Picture | null>(null);
  const pens = usePensKey(job.id, sheet, view?.scale);
  const query = useQuery({
    queryKey: ["picture", job.id, sheet, view?.id, view && job.sheets[sheet]?.views[view.id]?.lines, pens],
    enabled: !!view,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    queryFn: async () =>
      settled<Schemas["PictureState"]>(
        await api.GET("/api/jobs/{job_id}/sheets/{sheet}/views/{view}/picture", {
          params: { path: { job_id: job.id, sheet, view: view?.id as string } },
        }),
      ),
    refetchInterval: (query) => {
      const data = query.state.data;
      if (!data || data.picture || data.work?.state === "failed" || data.work?.state === "cancelled") return false;
      return pace();
    },
  });
  const { data } = query;
  useEffect(() => {
    last.current = data?.picture ?? data?.rough ?? last.current;
  }, [data]);
  return { ...query, data: data && { ...data, picture: data.picture ?? data.rough ?? last.current, rough: !data.picture && !!data.rough } };
}

export function useEdit(id: number) {
  return useChange(
    id,
    async (edit: Edit) => settled<Job>(await api.POST("/api/jobs/{job_id}/edits", { params: { path: { job_id: id } }, body: edit })),
    itself,
    foreseen,
  );
}

/** Undo or redo of what this page has seen; `anyway`: someone else's step too. */
export function useUndo(id: number, way: "undo" | "redo") {
  return useChange<{ anyway: boolean }, Job>(
    id,
    async ({ anyway }) =>
      settled<Job>(await api.POST(`/api/jobs/{job_id}/${way}`, { params: { path: { job_id: id }, query: { step: seenHead(id), anyway } } })),
    itself,
  );
}

export function usePutOnSheet(id: number) {
  return useChange(
    id,
    async (wish: { source: string; name: string; look: number[]; up: number[]; sheet: string | null; components?: string[]; each?: boolean }) =>
      settled<Schemas["Placed"]>(
        await api.POST("/api/jobs/{job_id}/views", {
          params: { path: { job_id: id } },
          body: { components: [], each: false, ...wish, look: wish.look as [number, number, number], up: wish.up as [number, number, number] },
        }),
      ),
    (placed) => placed.job,
  );
}

export function useBringIn(id: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (wish: File | { file: File; replaces: string }) => {
      const [file, replaces] = wish instanceof File ? [wish, ""] : [wish.file, wish.replaces];
      const query = new URLSearchParams({ name: file.name, ...(replaces && { replaces }) });
      return send<Schemas["IncomingView"]>(`/api/jobs/${id}/incoming?${query}`, file);
    },
    // a file that was read before joins the job at once, and is never seen on its way
    onSettled: () => Promise.all([client.invalidateQueries({ queryKey: ["incoming", id] }), client.invalidateQueries({ queryKey: ["job", id] })]),
    onError: useTell(),
  });
}

/** Say what a millimetre of a model's file is: it is read anew, and takes its own place. */
export function useSayUnit(id: number) {
  const client = useQueryClient();
  const tell = useTell();
  return useMutation({
    mutationFn: async ({ source, unit }: { source: string; unit: string }) =>
      settled<Schemas["IncomingView"]>(
        await api.POST("/api/jobs/{job_id}/sources/{source}/unit", { params: { path: { job_id: id, source } }, body: { unit } }),
      ),
    onSettled: () => Promise.all([client.invalidateQueries({ queryKey: ["incoming", id] }), client.invalidateQueries({ queryKey: ["job", id] })]),
    onError: (error) => {
      tell(error);
      useRefused.getState().refuse();
    },
  });
}

export async function dismissIncoming(job: number, incoming: number): Promise<void> {
  await api.DELETE("/api/jobs/{job_id}/incoming/{incoming_id}", {
    params: { path: { job_id: job, incoming_id: incoming } },
  });
}

/** Have a file read once more that could not be. */
export async function readAgain(job: number, incoming: number): Promise<void> {
  settled(await api.POST("/api/jobs/{job_id}/incoming/{incoming_id}/again", { params: { path: { job_id: job, incoming_id: incoming } } }));
}

/** Have a view drawn that was cancelled. */
export async function drawAgain(job: number, sheet: string, view: string): Promise<void> {
  await api.GET("/api/jobs/{job_id}/sheets/{sheet}/views/{view}/picture", {
    params: { path: { job_id: job, sheet, view }, query: { again: true } },
  });
}

export async function cancelWork(key: string): Promise<void> {
  await api.DELETE("/api/work/{key}", { params: { path: { key } } });
}

/** What a typed scale, format or length means; a Refusal says why it means nothing. */
export const readScale = async (text: string) => settled<Schemas["ScaleAnswer"]>(await api.POST("/api/read/scale", { body: { text } }));
export const readFormat = async (text: string) => settled<Schemas["FormatAnswer"]>(await api.POST("/api/read/format", { body: { text } }));
export const readViewpoint = async (text: string) => settled<Schemas["ViewpointView"]>(await api.POST("/api/read/viewpoint", { body: { text } }));
/** A length, a bare number in millimetres: for what is shown in them. */
export const readLength = async (text: string) => settled<Schemas["LengthAnswer"]>(await api.POST("/api/read/length", { body: { text } }));
/** A length, a bare number in the job's unit: for what is shown in that. */
export const readInUnit = async (text: string) => readLength(withUnit(text));

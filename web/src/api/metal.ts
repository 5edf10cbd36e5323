import { keepPreviousData, useMutation, useQueries } from "@tanstack/react-query";
import { useChange } from "./change";
import { handOverData } from "../common/handOver";
import { api, Refusal, settled, type Schemas } from "./client";
import { pace } from "./news";
import { useTell } from "./tell";
import { useQuery } from "./asking";

export type SheetPart = Schemas["SheetPart"];
export type Pattern = Schemas["PatternPicture"];
export type Choices = Schemas["UnfoldChoices"];
export type Rule = Schemas["BendRule"];
export type Bend = Schemas["Bend"];
export type FlatWriting = Schemas["FlatWriting"];

const waits = (data: { work?: Schemas["WorkState"] | null } | undefined, there: boolean) =>
  data && !there && data.work?.state !== "failed" && data.work?.state !== "cancelled" ? pace() : false;

/** How a part is unfolded where nobody has said otherwise. */
export const PLAIN: Choices = {
  rule: { way: "k-factor", value: 0.44, rows: [], name: "" },
  typed: {},
  base: null,
  side: "a",
  slit: null,
  turn: 0,
  limits: { opening: 2, flange: 3.5, radius: 1, hole: 1, relief: true },
};

/** The parts of a model with what each is to whoever bends and cuts; `wanted` while somebody asks. */
export function useSheetParts(source: string, wanted: boolean) {
  return useQuery({
    queryKey: ["sheet-metal", source],
    enabled: wanted,
    retry: false,
    staleTime: Infinity,
    queryFn: async () => settled<Schemas["SheetParts"]>(await api.GET("/api/sources/{source}/sheet-metal", { params: { path: { source } } })),
    refetchInterval: (query) => waits(query.state.data, !!query.state.data?.parts),
  });
}

/** The edges of a component's part, and along which it may be slit. */
export function usePartEdges(source: string, component: string) {
  return useQuery({
    queryKey: ["part-edges", source, component],
    retry: false,
    staleTime: Infinity,
    queryFn: async () =>
      settled<Schemas["PartEdges"]>(await api.GET("/api/sources/{source}/part-edges", { params: { path: { source }, query: { component } } })),
    refetchInterval: (query) => waits(query.state.data, !!query.state.data?.edges),
  });
}

/** A small picture of each part of some models, by source and component. */
export function usePartPictures(sources: readonly string[]) {
  const all = useQueries({
    queries: sources.map((source) => ({
      queryKey: ["part-pictures", source],
      retry: false,
      staleTime: Infinity,
      queryFn: async () => settled<Schemas["PartPictures"]>(await api.GET("/api/sources/{source}/part-pictures", { params: { path: { source } } })),
      refetchInterval: (query: { state: { data?: Schemas["PartPictures"]; status: string } }) =>
        query.state.status === "error" ? false : waits(query.state.data, !!query.state.data?.pictures),
    })),
  });
  return (source: string, component: string) => all[sources.indexOf(source)]?.data?.pictures?.[component];
}

/** A component unfolded; while it is made anew what was there before. */
export function usePattern(source: string, component: string, choices: Choices) {
  return useQuery({
    queryKey: ["flat-pattern", source, component, JSON.stringify(choices)],
    retry: false,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: async () =>
      settled<Schemas["PatternState"]>(
        await api.POST("/api/sources/{source}/flat-pattern", { params: { path: { source } }, body: { kind: "flat", component, choices } }),
      ),
    refetchInterval: (query) => waits(query.state.data, !!query.state.data?.pattern),
  });
}

export function usePutFlat(id: number) {
  return useChange(
    id,
    async (wish: Schemas["FlatRequest"]) =>
      settled<Schemas["Placed"]>(await api.POST("/api/jobs/{job_id}/flat-patterns", { params: { path: { job_id: id } }, body: wish })),
    (placed) => placed.job,
  );
}

/** A file that was answered, handed to the person under the name that it came with. */
function handOver(data: Blob, response: Response, otherwise: string) {
  const name = /filename\*=UTF-8''([^;]+)/.exec(response.headers.get("Content-Disposition") ?? "")?.[1];
  handOverData(data, name ? decodeURIComponent(name) : otherwise);
}

/** A flat pattern as DXF by a recipe. */
export function useFlatDxf(source: string) {
  return useMutation({
    mutationFn: async (wish: { component: string; choices: Choices; recipe: string; side_b: boolean }) => {
      const { component, choices, ...rest } = wish;
      for (;;) {
        const { data, error, response } = await api.POST("/api/sources/{source}/flat-pattern.dxf", {
          params: { path: { source } },
          body: { spec: { kind: "flat", component, choices }, ...rest },
          parseAs: "blob",
        });
        if (error) settled({ data: undefined, error, response });
        if (response.status !== 202) return handOver(data as unknown as Blob, response, "flat.dxf");
        await new Promise((done) => setTimeout(done, pace()));
      }
    },
    onError: useTell(),
  });
}

/** How flat patterns are written as DXF where no recipe says otherwise. */
export const useShippedWriting = () =>
  useQuery({ queryKey: ["flat-writing"], staleTime: Infinity, queryFn: async () => settled<FlatWriting>(await api.GET("/api/flat-writing")) });

/** A bend table out of a file. */
export async function readTable(file: File): Promise<Rule> {
  const name = file.name.replace(/\.[^.]*$/, "");
  return settled<Rule>(await api.POST("/api/bend-tables", { body: { text: await file.text(), name } }));
}

/** The bend table that ships as an example. */
export const exampleTable = async () => settled<Rule>(await api.GET("/api/bend-tables/example"));

/** A bend table as a file. */
export async function writeTable(rule: Rule): Promise<void> {
  const { data, error, response } = await api.POST("/api/bend-tables.csv", { body: rule, parseAs: "blob" });
  if (error) throw new Refusal("The bend table could not be written.");
  handOver(data, response, "bends.csv");
}

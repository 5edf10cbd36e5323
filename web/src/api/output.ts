import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, send, settled, type Schemas } from "./client";
import { pace } from "./news";
import { useTell } from "./tell";
import { useQuery } from "./asking";

export type Recipe = Schemas["Recipe"];
export type Pack = Schemas["Pack"];
export type IssueRequest = Schemas["IssueRequest"];
export type Issue = Schemas["IssueView"];

export function useRecipes() {
  return useQuery({ queryKey: ["recipes"], queryFn: async () => settled<Schemas["RecipeList"]>(await api.GET("/api/recipes")) });
}

export const recipesOf = (list: Schemas["RecipeList"] | undefined) => [...(list?.shipped ?? []), ...(list?.kept ?? [])];

/** Whether a recipe's choices go together; the refusal says why not. */
export const tryRecipe = async (recipe: Recipe) => settled<Recipe>(await api.POST("/api/recipes/try", { body: recipe }));

export function useKeepRecipe() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (recipe: Recipe) => settled<Recipe>(await api.PUT("/api/recipes", { body: recipe })),
    onSuccess: () => client.invalidateQueries({ predicate: ({ queryKey }) => ["recipes", "proof"].includes(String(queryKey[0])) }),
    onError: useTell(),
  });
}

export function useDropRecipe() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (recipe: string) => settled(await api.DELETE("/api/recipes/{recipe}", { params: { path: { recipe } } })),
    onSuccess: () => client.invalidateQueries({ predicate: ({ queryKey }) => ["recipes", "proof"].includes(String(queryKey[0])) }),
    onError: useTell(),
  });
}

export function useReadRecipe() {
  return useMutation({
    mutationFn: (file: File) => send<Recipe>("/api/recipes/read", file),
    onError: useTell(),
  });
}

/** What a sending would be, as the job is now. */
export function usePreview(job: number, state: string, wish: IssueRequest | null) {
  return useQuery({
    queryKey: ["preview", job, state, wish],
    enabled: !!wish,
    placeholderData: (before) => before,
    queryFn: async () =>
      settled<Schemas["PreviewView"]>(await api.POST("/api/jobs/{job_id}/issues/preview", { params: { path: { job_id: job } }, body: wish as IssueRequest })),
  });
}

export function useBeginIssue(job: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (wish: IssueRequest) => settled<Issue>(await api.POST("/api/jobs/{job_id}/issues", { params: { path: { job_id: job } }, body: wish })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["issues"] }),
    onError: useTell(),
  });
}

/** The register, the newest first; asked again while something is under way. */
export function useIssues(filter: { job?: number; text?: string; purpose?: string }) {
  return useQuery({
    queryKey: ["issues", filter],
    placeholderData: (before) => before,
    queryFn: async () => settled<Issue[]>(await api.GET("/api/issues", { params: { query: filter } })),
    refetchInterval: (query) => (query.state.data?.some((issue) => issue.state === "running") ? pace() : false),
  });
}

export function useIssueAct() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async ({ issue, act }: { issue: number; act: "cancel" | "retry" | "accept" }) =>
      act === "cancel"
        ? settled<unknown>(await api.POST("/api/issues/{issue}/cancel", { params: { path: { issue } } }))
        : act === "accept"
          ? settled<unknown>(await api.POST("/api/issues/{issue}/accept", { params: { path: { issue } } }))
          : settled<unknown>(await api.POST("/api/issues/{issue}/retry", { params: { path: { issue } } })),
    onSettled: () => client.invalidateQueries({ queryKey: ["issues"] }),
    onError: useTell(),
  });
}

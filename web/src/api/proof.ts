import { useMutation, useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { api, settled, type Schemas } from "./client";
import { ASK_AGAIN, useTell } from "./queries";

export function useProof(job: number, sheet: string | undefined, step: number) {
  return useQuery({
    queryKey: ["proof", job, sheet, step],
    enabled: sheet !== undefined,
    queryFn: async () =>
      settled<Schemas["ProofView"]>(
        await api.GET("/api/jobs/{job_id}/sheets/{sheet}/proof", {
          params: { path: { job_id: job, sheet: sheet as string } },
        }),
      ),
    refetchInterval: (query) => {
      const state = query.state.data?.work?.state;
      return state === "queued" || state === "running" ? ASK_AGAIN : false;
    },
  });
}

/** Until every change of a job that is on its way has arrived: a file is made of what the page shows. */
async function changesKept(client: QueryClient, id: number) {
  while (client.isMutating({ mutationKey: ["change", id] })) await new Promise((go) => setTimeout(go, 30));
}

export function useMakeProof(id: number, sheet: string | undefined, step: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async () => {
      await changesKept(client, id);
      return settled<Schemas["ProofView"]>(
        await api.POST("/api/jobs/{job_id}/sheets/{sheet}/proof", {
          params: { path: { job_id: id, sheet: sheet as string } },
        }),
      );
    },
    onSuccess: (proof) => client.setQueryData(["proof", id, sheet, step], proof),
    onError: useTell(),
  });
}

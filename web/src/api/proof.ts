import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, settled, type Schemas } from "./client";
import { pace } from "./news";
import { useTell } from "./tell";
import { useQuery } from "./asking";

export function useProof(job: number, sheet: string | undefined, state: string) {
  return useQuery({
    queryKey: ["proof", job, sheet, state],
    enabled: sheet !== undefined,
    // a change that does not show on the sheet leaves its file, and all that is open of it, as it is
    placeholderData: (before: Schemas["ProofView"] | undefined, query) => (query?.queryKey[1] === job && query.queryKey[2] === sheet ? before : undefined),
    queryFn: async () =>
      settled<Schemas["ProofView"]>(
        await api.GET("/api/jobs/{job_id}/sheets/{sheet}/proof", {
          params: { path: { job_id: job, sheet: sheet as string } },
        }),
      ),
    refetchInterval: (query) => {
      const state = query.state.data?.work?.state;
      return state === "queued" || state === "running" ? pace() : false;
    },
  });
}

export function useMakeProof(id: number, sheet: string | undefined, state: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async () =>
      settled<Schemas["ProofView"]>(
        await api.POST("/api/jobs/{job_id}/sheets/{sheet}/proof", {
          params: { path: { job_id: id, sheet: sheet as string } },
        }),
      ),
    // what was asked before does not know of it, and what is asked for may be another state's by now
    onMutate: () => client.cancelQueries({ queryKey: ["proof", id, sheet] }),
    onSuccess: (proof) => {
      client.setQueryData(["proof", id, sheet, state], proof);
      void client.invalidateQueries({ queryKey: ["proof", id, sheet] });
    },
    onError: useTell(),
  });
}

import { useChange } from "./change";
import { api, settled, type Schemas } from "./client";
import { pace } from "./news";
import { useQuery } from "./asking";

/** Make a sheet that lies on a page of a PDF. */
export function usePutFinished(job: number) {
  return useChange(
    job,
    async (body: Schemas["FinishedPageRequest"]) =>
      settled<Schemas["Placed"]>(await api.POST("/api/jobs/{job_id}/pages/as-it-is", { params: { path: { job_id: job } }, body })),
    (placed) => placed.job,
  );
}

/** The page that a sheet lies on: its picture, and the lines on it that an area snaps to. */
export function useFinishedPage(onto: Schemas["FinishedPage"] | null | undefined) {
  return useQuery({
    queryKey: ["finished-page", onto?.source, onto?.page],
    enabled: !!onto,
    staleTime: Infinity,
    queryFn: async () =>
      settled<Schemas["FinishedPageState"]>(
        await api.GET("/api/sources/{source}/pages/{number}", { params: { path: { source: onto?.source ?? "", number: onto?.page ?? 1 } } }),
      ),
    refetchInterval: (query) => {
      const data = query.state.data;
      return !data || data.picture || data.work?.state === "failed" ? false : pace();
    },
  });
}

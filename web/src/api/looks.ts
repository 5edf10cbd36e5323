import { useMutation } from "@tanstack/react-query";
import { handOver } from "../common/handOver";
import { api, settled, type Schemas } from "./client";
import { pace } from "./news";
import { useTell } from "./tell";
import { useQuery } from "./asking";

export type Points = Schemas["SnapPoints"];
export type Printer = Schemas["Printer"];
export type PictureRequest = Schemas["PictureRequest"];
const place = (job: number, sheet: string) => ({ params: { path: { job_id: job, sheet } } });

/** What the measuring tool can hold on to; `key` names the file. */
export function usePoints(job: number, sheet: string, key: string | null) {
  return useQuery({
    queryKey: ["points", key],
    enabled: !!key,
    staleTime: Infinity,
    queryFn: async () => settled<Schemas["PointsState"]>(await api.GET("/api/jobs/{job_id}/sheets/{sheet}/proof/points", place(job, sheet))),
    refetchInterval: (query) => (query.state.data && !query.state.data.points ? pace() : false),
  });
}

export function usePrinted(job: number, sheet: string, key: string | null, printer: Printer) {
  return useQuery({
    queryKey: ["printed", key, printer],
    enabled: !!key,
    retry: false,
    staleTime: Infinity,
    placeholderData: (before) => before,
    queryFn: async () =>
      settled<Schemas["PrintedState"]>(await api.POST("/api/jobs/{job_id}/sheets/{sheet}/proof/printed", { ...place(job, sheet), body: printer })),
    refetchInterval: (query) => (query.state.data && !query.state.data.printed ? pace() : false),
  });
}

export function useCompared(job: number, sheet: string, key: string | null) {
  return useQuery({
    queryKey: ["compared", key],
    enabled: !!key,
    retry: false,
    queryFn: async () => settled<Schemas["ComparedState"]>(await api.POST("/api/jobs/{job_id}/sheets/{sheet}/proof/compared", place(job, sheet))),
    refetchInterval: (query) => (query.state.data && !query.state.data.ready ? pace() : false),
  });
}

export function usePictureSize(job: number, sheet: string, wish: PictureRequest) {
  return useQuery({
    queryKey: ["picture-size", job, sheet, wish],
    retry: false,
    queryFn: async () =>
      settled<Schemas["PictureAnswer"]>(await api.POST("/api/jobs/{job_id}/sheets/{sheet}/proof/picture/size", { ...place(job, sheet), body: wish })),
  });
}

/** Has a picture made, and hands it to the browser to keep. */
export function useMakePicture(job: number, sheet: string) {
  return useMutation({
    mutationFn: async ({ wish, whole }: { wish: PictureRequest; whole: boolean }) => {
      for (;;) {
        const answer = settled<Schemas["PictureAnswer"]>(
          await api.POST("/api/jobs/{job_id}/sheets/{sheet}/proof/picture", { params: { ...place(job, sheet).params, query: { whole } }, body: wish }),
        );
        if (answer.ready) break;
        await new Promise((done) => setTimeout(done, pace()));
      }
      handOver(`/api/jobs/${job}/sheets/${sheet}/proof/picture/file?whole=${whole}&wish=${encodeURIComponent(JSON.stringify(wish))}`);
    },
    onError: useTell(),
  });
}

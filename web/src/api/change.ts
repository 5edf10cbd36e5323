import { useIsMutating, useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Job } from "./client";
import { useReading, useRefused } from "../common/reading";
import { answered, changesOf } from "./held";
import { seen } from "./news";
import { useTell } from "./tell";

/** Whether a change of a job is on its way, or a typed value is being read to become one. */
export function useChanging(id: number): boolean {
  const reading = useReading((state) => state.count);
  return useIsMutating({ mutationKey: changesOf(id) }) + reading > 0;
}

/**
 * What was last wished for a value of a job, until the changes that are on their way are through: the next wish is worked out
 * from it, however quickly it comes.
 */
export function useLatest<Value>(id: number, kept: Value): [Value, (wish: Value) => void] {
  const changing = useChanging(id);
  const [wish, setWish] = useState<{ value: Value; over: Value; begun: boolean } | null>(null);
  useEffect(() => {
    setWish((last) => {
      if (!last || changing) return last && { ...last, begun: true };
      return last.begun || last.over !== kept ? null : last;
    });
  }, [changing, kept]);
  return [wish ? wish.value : kept, (value) => setWish({ value, over: kept, begun: changing })];
}

/**
 * A change of a job. Changes go one after another, so that the last answer has them all; what a page works the next one out
 * from can show before the answer (`foresee`). After a refusal the job is asked for as it is.
 */
export function useChange<Wish, Answer>(
  id: number,
  ask: (wish: Wish) => Promise<Answer>,
  jobOf: (answer: Answer) => Job,
  foresee?: (job: Job, wish: Wish) => Job,
) {
  const client = useQueryClient();
  const tell = useTell();
  return useMutation({
    mutationKey: changesOf(id),
    scope: { id: `changes of ${id}` },
    mutationFn: ask,
    onMutate: async (wish) => {
      // an answer that was on its way before would bring the old state back
      await client.cancelQueries({ queryKey: ["job", id] });
      if (foresee) client.setQueryData<Job>(["job", id], (job) => job && foresee(job, wish));
    },
    onSuccess: (came) => {
      seen(jobOf(came));
      answered(id);
      if (client.isMutating({ mutationKey: changesOf(id) }) <= 1) client.setQueryData(["job", id], jobOf(came));
    },
    onError: (error) => {
      tell(error);
      useRefused.getState().refuse();
      void client.invalidateQueries({ queryKey: ["job", id] });
    },
  });
}

export const itself = (job: Job) => job;

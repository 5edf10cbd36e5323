import type { QueryClient } from "@tanstack/react-query";
import type { Job } from "./client";
import { seen } from "./news";

/** What changes of a job are called among all that is on its way. */
export const changesOf = (id: number) => ["change", id] as const;

const answers = new Map<number, number>();

/** Note that a change of a job was answered. */
export const answered = (id: number) => void answers.set(id, (answers.get(id) ?? 0) + 1);

/** A job as asked for, unless a change of this page was on its way meanwhile: then what the page holds is newer. */
export async function asOf(client: QueryClient, id: number, ask: () => Promise<Job>): Promise<Job> {
  const before = answers.get(id);
  const job = await ask();
  const held = client.getQueryData<Job>(["job", id]);
  const newer = answers.get(id) !== before || client.isMutating({ mutationKey: changesOf(id) }) > 0;
  return held && newer ? held : seen(job);
}

import { useQueryClient, type Query, type QueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Job } from "./client";

/** What the server tells as it happens: what of which job (0: of any), that work moved on, or to look at everything. */
interface Item {
  kind: "job" | "incoming" | "issue" | "release" | "settings" | "work" | "all";
  job: number;
}

const ASKING = 400;
const LISTENING = 3000;
const AFTER = 250;
const HELD = 1000;
const LOOKING = 20;
let open = false;

/** How long to wait before asking again for what is being made, ms: seldom, while the server tells by itself. */
export const pace = () => (open ? LISTENING : ASKING);

/** Whether an answer is not the last: it would be asked for again. */
function waits(query: Query): boolean {
  return query.observers.some((observer) => {
    const interval = observer.options.refetchInterval;
    return typeof interval === "function" && !!interval(query);
  });
}

/** What hangs on a sheet's pictures, and takes the server longer than these. */
const AFTER_PICTURES = new Set<unknown>(["writing", "scales", "edges"]);

/** Whether pictures that the page shows are still to come. */
const drawing = (client: QueryClient) =>
  client
    .getQueryCache()
    .findAll({ queryKey: ["picture"], type: "active" })
    .some((query) => query.state.status === "pending" || waits(query));

/** Wait for the pictures, so that nothing keeps the server from them; not for long, since they may take their time. */
export async function afterPictures(client: QueryClient) {
  const end = performance.now() + HELD;
  // those of the same change are asked for first
  do await new Promise((go) => setTimeout(go, LOOKING));
  while (drawing(client) && performance.now() < end);
}

/** Ask again for all that waits: for the pictures first, and for what hangs on them once they are there. */
async function askAgain(client: QueryClient) {
  const ask = (predicate: (query: Query) => boolean) =>
    client.refetchQueries({ type: "active", predicate: (query) => waits(query) && predicate(query) }, { cancelRefetch: false });
  await ask((query) => !AFTER_PICTURES.has(query.queryKey[0]));
  if (!drawing(client)) await ask((query) => AFTER_PICTURES.has(query.queryKey[0]));
}

/** What hangs on recipes, the cutter, formats, templates and release rules. */
const BY_SETTINGS = new Set<unknown>([
  "recipes",
  "cutter",
  "cutter-run",
  "plate",
  "proof",
  "own-formats",
  "templates",
  "release-rules",
  "release-preview",
  "drawings",
]);

function look(client: QueryClient, what: Set<Item["kind"]>, job: number | undefined) {
  const all = what.has("all");
  if (all || what.has("work") || what.has("incoming")) {
    void askAgain(client);
    void client.invalidateQueries({ queryKey: ["incoming"] });
  }
  if (all || what.has("issue")) void client.invalidateQueries({ queryKey: ["issues"] });
  if (all || what.has("release")) void client.invalidateQueries({ queryKey: ["releases"] });
  if (all || what.has("issue") || what.has("release") || what.has("job")) void client.invalidateQueries({ queryKey: ["drawings"] });
  // what was refused while nobody could be asked is not asked for again by itself
  if (all) void client.refetchQueries({ type: "active", predicate: (query) => query.state.status === "error" });
  // what all jobs share decides their files, too
  if (all || what.has("settings")) void client.invalidateQueries({ predicate: ({ queryKey }) => BY_SETTINGS.has(queryKey[0]) });
  if (all || what.has("job")) {
    void client.invalidateQueries({ queryKey: ["states"] });
    if (job) void client.invalidateQueries({ queryKey: ["writing", job], refetchType: "none" });
    void client.invalidateQueries({ queryKey: ["jobs"] });
    // while changes of this page are on their way, the last answer has all of them
    if (job && !client.isMutating({ mutationKey: ["change", job] })) void client.invalidateQueries({ queryKey: ["job", job] });
  }
}

/** Hear the news of a job, or of all, and look anew at what they are about. A page that is out of sight does not listen. */
export function useNews(job?: number) {
  const client = useQueryClient();
  useEffect(() => {
    let source: EventSource | null = null;
    let timer = 0;
    let due = new Set<Item["kind"]>();
    let last = 0;
    const flush = () => {
      timer = 0;
      last = performance.now();
      const what = due;
      due = new Set();
      // what other people did meanwhile waits until this page's own changes are through
      if (what.has("job") && job && client.isMutating({ mutationKey: ["change", job] })) {
        due.add("job");
        timer = window.setTimeout(flush, AFTER);
      }
      look(client, what, job);
    };
    const hear = (event: MessageEvent<string>) => {
      open = true;
      due.add((JSON.parse(event.data) as Item).kind);
      // what comes after a while at once, what comes thick and fast together
      const pause = due.has("job") ? 0 : Math.max(0, last + AFTER / 2 - performance.now());
      timer ||= window.setTimeout(flush, pause);
    };
    const listen = () => {
      if (document.hidden || source) return;
      source = new EventSource(job ? `/api/events?job=${job}` : "/api/events");
      source.onmessage = hear;
      source.onerror = () => (open = false);
    };
    const rest = () => {
      source?.close();
      source = null;
      open = false;
    };
    const turn = () => (document.hidden ? rest() : listen());
    listen();
    document.addEventListener("visibilitychange", turn);
    return () => {
      document.removeEventListener("visibilitychange", turn);
      window.clearTimeout(timer);
      rest();
    };
  }, [client, job]);
}

const heads = new Map<number, number>();

/** Note where a job's head was last seen. */
export function seen(job: Job): Job {
  heads.set(job.id, job.step);
  return job;
}

/** Where a job's head was last seen: what an undo takes back. */
export const seenHead = (job: number) => heads.get(job);

import { useReleases } from "../api/release";
import { part } from "../common/part";
import type { Stop } from "../shell/stop";
import { ended, total } from "./counts";
import * as texts from "./stop.texts";

/** Where the files of all parts and sheets are made by rules. */
export const releaseStop: Stop = {
  path: "release",
  name: texts.releaseStop,
  guide: "release",
  onSheet: false,
  page: part(async () => (await import("./ReleaseStop")).ReleaseStop),
  useState: (job) => {
    const last = useReleases(job.id).data?.[0];
    if (!last) return { state: texts.notYet, tone: "plain" };
    if (last.state === "running") return { state: texts.making(Math.round((100 * ended(last)) / Math.max(1, total(last)))), tone: "plain" };
    if (last.state === "failed") return { state: texts.failed, tone: "warn" };
    return { state: last.state === "paused" ? texts.paused : texts.released(total(last)), tone: "plain" };
  },
};

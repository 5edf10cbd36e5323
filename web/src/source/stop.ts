import { useIncoming } from "../api/queries";
import { part } from "../common/part";
import { count, type Stop } from "../shell/stop";
import * as texts from "./stop.texts";

/** Where models and drawings come in. */
export const sourceStop: Stop = {
  path: "source",
  name: texts.sourceStop,
  guide: "source",
  onSheet: false,
  page: part(async () => (await import("./SourceStop")).SourceStop),
  useState: (job) => {
    const incoming = useIncoming(job.id).data ?? [];
    const reading = incoming.filter((row) => row.state === "reading").length;
    const failed = incoming.filter((row) => row.state === "failed").length;
    const sources = job.document.sources.length;
    return {
      state: reading ? texts.readingSo(reading) : failed ? texts.refused(failed) : sources ? count(sources, "file") : texts.noneYet,
      tone: failed ? "warn" : "plain",
    };
  },
};

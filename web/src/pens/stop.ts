import { usePenFacts } from "../api/pens";
import { part } from "../common/part";
import type { Stop } from "../shell/stop";
import * as texts from "./stop.texts";

/** Where it is said how strokes are drawn. */
export const pensStop: Stop = {
  path: "pens",
  name: texts.pensStop,
  guide: "pens",
  onSheet: true,
  page: part(async () => (await import("./PensStop")).PensStop),
  useState: (job, sheet) => {
    const { data: facts } = usePenFacts();
    const open = job.document.sheets.find((own) => own.id === sheet) ?? job.document.sheets[0];
    const pens = [...job.document.pens, ...(facts?.shipped ?? [])].find((set) => set.id === open?.pens);
    return { state: pens?.name ?? "…", tone: "plain" };
  },
};

import { useParts } from "../api/parts";
import { part } from "../common/part";
import { count, type Stop } from "../shell/stop";
import * as texts from "./stop.texts";

/** Where parts have their properties and marks. */
export const partsStop: Stop = {
  path: "parts",
  name: texts.partsStop,
  guide: "parts",
  onSheet: false,
  page: part(async () => (await import("./PartsStop")).PartsStop),
  useState: (job) => {
    const { data } = useParts(job);
    const rows = data?.rows ?? [];
    const bare = rows.some((row) => row.mark) ? rows.filter((row) => !row.mark).length : 0;
    return { state: bare ? texts.toMark(bare) : rows.length ? count(rows.length, "row") : texts.noModel, tone: bare ? "warn" : "plain" };
  },
};

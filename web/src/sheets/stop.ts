import { part } from "../common/part";
import { count, type Stop } from "../shell/stop";
import * as texts from "./stop.texts";

/** Where sheets are composed. */
export const sheetsStop: Stop = {
  path: "sheets",
  name: texts.sheetsStop,
  guide: "views",
  onSheet: true,
  page: part(async () => (await import("./SheetsStop")).SheetsStop),
  useState: (job) => ({ state: job.document.sheets.length ? count(job.document.sheets.length, "sheet") : texts.noneYet, tone: "plain" }),
};

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
  // what the job itself says: looking through its models takes a worker's time, and waits until somebody comes here
  useState: (job) => {
    const marks = job.document.given_marks.filter((own) => !own.dropped).length;
    return { state: marks ? count(marks, "mark") : texts.noMarks, tone: "plain" };
  },
};

import { useIssues } from "../api/output";
import { part } from "../common/part";
import { count, type Stop } from "../shell/stop";
import * as texts from "./stop.texts";

/** Where packs go out. */
export const issueStop: Stop = {
  path: "issue",
  name: texts.issueStop,
  guide: "issues",
  onSheet: false,
  page: part(async () => (await import("./IssueStop")).IssueStop),
  useState: (job) => {
    const { data: issues } = useIssues({ job: job.id });
    const last = issues?.[0];
    if (!last) return { state: texts.notYet, tone: "plain" };
    if (last.state === "running") return { state: texts.issuing(Math.round(last.share * 100)), tone: "plain" };
    if (last.state === "failed") return { state: texts.failed, tone: "warn" };
    return { state: last.revision ? texts.revisionSo(last.revision) : count(issues.length, "issue"), tone: "plain" };
  },
};

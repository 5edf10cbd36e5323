import { useProof } from "../api/proof";
import { part } from "../common/part";
import { count, type Stop } from "../shell/stop";
import * as texts from "./stop.texts";

/** Where the real file is looked at and measured. */
export const proofStop: Stop = {
  path: "proof",
  name: texts.proofStop,
  guide: "proof",
  onSheet: true,
  page: part(async () => (await import("./ProofStop")).ProofStop),
  useState: (job, sheet) => {
    const { data: proof } = useProof(job.id, sheet ?? job.document.sheets[0]?.id, job.state);
    if (!proof?.ready) return { state: texts.notMadeYet, tone: "plain" };
    const wrong = proof.report?.findings.filter((finding) => finding.level !== "info").length ?? 0;
    const failing = proof.report?.findings.filter((finding) => finding.level === "error").length ?? 0;
    if (failing) return { state: texts.failing(failing), tone: "warn" };
    return wrong ? { state: count(wrong, "warning"), tone: "warn" } : { state: texts.passes, tone: "plain" };
  },
};

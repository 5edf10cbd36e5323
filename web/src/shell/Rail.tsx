import { NavLink } from "react-router";
import { useProof } from "../api/proof";
import { useIssues } from "../api/output";
import { usePenFacts } from "../api/pens";
import { useIncoming } from "../api/queries";
import type { Job } from "../api/client";
import * as texts from "./texts";

type Tone = "plain" | "warn" | "off";

interface Stop {
  name: string;
  path?: string;
  state: string;
  tone: Tone;
}

const count = (n: number, word: string) => (n === 1 ? `1 ${word}` : `${n} ${word}s`);

/** How many checks fail; where none does, how many warn. */
const wrongWords = (wrong: number, failing: number) => (failing ? (failing === 1 ? texts.n1Fails : texts.fail(failing)) : count(wrong, "warning"));

function useStops(job: Job, sheet: string | undefined): Stop[] {
  const incoming = useIncoming(job.id).data ?? [];
  const { data: proof } = useProof(job.id, sheet ?? job.document.sheets?.[0]?.id, job.state);
  const { data: facts } = usePenFacts();
  const { data: issues } = useIssues({ job: job.id });
  const sources = job.document.sources?.length ?? 0;
  const sheets = job.document.sheets?.length ?? 0;
  const reading = incoming.filter((row) => row.state === "reading").length;
  const failed = incoming.filter((row) => row.state === "failed").length;
  const own = job.document.sheets.find((s) => s.id === sheet) ?? job.document.sheets[0];
  const pens = [...job.document.pens, ...(facts?.shipped ?? [])].find((set) => set.id === own?.pens);
  const wrong = proof?.report?.findings.filter((finding) => finding.level !== "info").length ?? 0;
  const failing = proof?.report?.findings.filter((finding) => finding.level === "error").length ?? 0;
  const proofState = !proof?.ready ? texts.notMade : wrong ? wrongWords(wrong, failing) : "passes";
  const last = issues?.[0];
  const issueState = !last ? texts.notYet : last.state === "running" ? texts.issuing(Math.round(last.share * 100)) : last.state === "failed" ? "failed" : last.revision ? texts.revision(last.revision) : count(issues.length, "issue");
  return [
    {
      name: texts.source,
      path: "source",
      state: reading ? texts.reading(reading) : failed ? texts.refused(failed) : sources ? count(sources, "file") : texts.noneYet,
      tone: failed ? "warn" : "plain",
    },
    { name: texts.sheets, path: "sheets", state: sheets ? count(sheets, "sheet") : texts.noneYet, tone: "plain" },
    { name: texts.pens, path: "pens", state: pens?.name ?? "…", tone: "plain" },
    { name: texts.proof, path: "proof", state: proofState, tone: wrong ? "warn" : "plain" },
    { name: texts.issue, path: "issue", state: issueState, tone: last?.state === "failed" ? "warn" : "plain" },
  ];
}

/** The five stops in the order of the work, each with its state. */
export function Rail({ job, sheet }: { job: Job; sheet: string | undefined }) {
  const stops = useStops(job, sheet);
  return (
    <nav className="rail" aria-label={texts.stops}>
      {stops.map((stop, index) => {
        const content = (
          <>
            <span className="mark">{index + 1}</span>
            <span className="name">{stop.name}</span>
            <span className="state">{stop.state}</span>
          </>
        );
        if (!stop.path)
          return (
            <div key={stop.name} className="stop off">
              {content}
            </div>
          );
        const keepsSheet = stop.path !== "source" && stop.path !== "issue" && sheet;
        return (
          <NavLink
            key={stop.name}
            to={`/jobs/${job.id}/${stop.path}${keepsSheet ? `/${sheet}` : ""}`}
            className={({ isActive }) => `stop ${stop.tone} ${isActive ? "here" : ""}`}
          >
            {content}
          </NavLink>
        );
      })}
    </nav>
  );
}

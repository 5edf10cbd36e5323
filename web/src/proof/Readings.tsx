import { Button } from "antd";
import type { ReactNode } from "react";
import type { Report } from "../api/client";
import { told } from "./told";
import * as texts from "./texts";

export type Check = NonNullable<Report["checks"]>[number];
export type Place = [number, number, number, number];

interface Props {
  report: Report;
  onShow: (place: Place | null) => void;
  onGo: (place: Place) => void;
  onDownload: () => void;
  children?: ReactNode;
}

const WORST = { fails: 0, mend: 1, holds: 2, told: 3 } as const;
const VERDICTS = { fails: "fails", mend: "warning", holds: "passes", told: "" } as const;

/** How many checks there are, and how many of each verdict that there is; what is told and held against nothing is no check. */
function countedChecks(checks: readonly Check[]): string {
  const [passing, warning, failing] = (["holds", "mend", "fails"] as const).map((verdict) => checks.filter((check) => check.verdict === verdict).length) as [
    number,
    number,
    number,
  ];
  const parts = [texts.ofChecksPass(passing, passing + warning + failing)];
  if (warning) parts.push(warning === 1 ? texts.n1Warning : texts.warnings(warning));
  if (failing) parts.push(failing === 1 ? texts.n1Fails : texts.fail(failing));
  return parts.join(" · ");
}

/** What was read from the finished file, each with its verdict; what does not hold stands first, and leads to its place. */
export function Readings({ report, onShow, onGo, onDownload, children }: Props) {
  const all = [...(report.checks ?? [])].sort((a, b) => WORST[a.verdict] - WORST[b.verdict]);
  return (
    <>
      <p className="soft">{countedChecks(all)}</p>
      <Button type="primary" block onClick={onDownload}>
        {texts.downloadThePdf} <kbd>D</kbd>
      </Button>
      {children}
      <ul className="readings" aria-label={texts.checks}>
        {all.map((check, index) => (
          <li key={index} data-check={check.code} onMouseEnter={() => onShow((check.place as Place) ?? null)} onMouseLeave={() => onShow(null)}>
            <strong>{check.title}</strong>
            <b className={check.verdict}>{VERDICTS[check.verdict]}</b>
            <span>{told(check.reading, check.code)}</span>
            <em>
              {told(check.limit ?? "", check.code)}
              {check.place && (check.verdict === "mend" || check.verdict === "fails") && (
                <button type="button" className="as-file" onClick={() => onGo(check.place as Place)}>
                  {texts.show}
                </button>
              )}
            </em>
          </li>
        ))}
      </ul>
    </>
  );
}

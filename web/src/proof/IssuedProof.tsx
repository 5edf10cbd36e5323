import { Button } from "antd";
import { useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import { dayOf } from "../common/dates";
import { api, settled, type Report } from "../api/client";
import type { Issue } from "../api/output";
import { handOver } from "../common/handOver";
import { Calibrate } from "../paper/Calibrate";
import { Rulers } from "../paper/Rulers";
import { PAD, useZoom } from "../paper/useZoom";
import { ZoomHint } from "../paper/ZoomHint";
import { Note, Ticket } from "../ticket/Ticket";
import { lookAt } from "./lookAt";
import { PdfPage, usePdfPage } from "./PdfPage";
import { Readings, type Place } from "./Readings";
import * as texts from "./texts";
import { useQuery } from "../api/asking";

function useIssued(issue: number, file: number) {
  const { data: about, error } = useQuery({
    queryKey: ["issue", issue],
    retry: false,
    queryFn: async () => settled<Issue>(await api.GET("/api/issues/{issue}", { params: { path: { issue } } })),
  });
  const { data: report, error: problem } = useQuery({
    queryKey: ["issued-report", issue, file],
    retry: false,
    staleTime: Infinity,
    queryFn: async () => settled<Report>(await api.GET("/api/issues/{issue}/files/{file}/report", { params: { path: { issue, file } } })),
  });
  return { about, report, file: about?.files.find((own) => own.id === file), problem: (error ?? problem)?.message ?? "" };
}

/** A file of an issue at the proof: as it was sent, whatever has become of its sheets since, with what was measured then. */
export function IssuedProof() {
  const path = useParams();
  const [issue, id] = [Number(path.issue), Number(path.file)];
  const { about, report, file, problem } = useIssued(issue, id);
  const [number, setNumber] = useState(1);
  const [place, setPlace] = useState<Place | null>(null);
  const [calibrating, setCalibrating] = useState(false);
  const address = `/api/issues/${issue}/files/${id}`;
  const isPdf = file?.name.toLowerCase().endsWith(".pdf");
  const { page, problem: unread } = usePdfPage(isPdf ? address : null, number);
  const measured = report?.pages[number - 1];
  const paper = { width: measured?.width_mm ?? 210, height: measured?.height_mm ?? 297 };
  const { frame, zoom, ...size } = useZoom(paper, "proof-zoom", () => setCalibrating(true));
  const offset = useMemo(() => ({ left: PAD.left, top: PAD.top }), []);
  const download = () => handOver(address);
  const go = (to: Place) => {
    if (!frame.current) return;
    setPlace(to);
    lookAt(frame.current, to, paper.height, zoom, size.by);
  };
  return (
    <main className="issued-proof desk-row">
      <div className="desk" ref={frame}>
        <div className="surface" style={{ width: paper.width * zoom + PAD.left + PAD.right, height: paper.height * zoom + PAD.top + PAD.bottom }}>
          <svg className="under" width={paper.width * zoom + PAD.left + PAD.right} height={paper.height * zoom + PAD.top + 4} aria-hidden>
            <g transform={`translate(${PAD.left} ${PAD.top})`}>
              <rect className="paper" width={paper.width * zoom} height={paper.height * zoom} />
              <Rulers paper={paper} zoom={zoom} />
            </g>
          </svg>
          <div className="on-paper" style={{ left: PAD.left, top: PAD.top, width: paper.width * zoom, height: paper.height * zoom }}>
            {measured && <PdfPage page={page} proof={`${id}`} zoom={zoom} width={paper.width} height={paper.height} frame={frame} offset={offset} />}
            {place && (
              <div
                className="measured"
                style={{ left: place[0] * zoom, bottom: place[1] * zoom, width: (place[2] - place[0]) * zoom, height: (place[3] - place[1]) * zoom }}
              />
            )}
            {file && !isPdf && <p className="waiting">{texts.noPages}</p>}
            {(problem || unread) && (
              <p role="alert">
                {texts.theFileCannotBeShown} {problem || unread}
              </p>
            )}
          </div>
          <p className="hint soft" style={{ paddingLeft: PAD.left }}>
            <ZoomHint what={texts.asItWasSent} {...size} />
          </p>
        </div>
      </div>
      <Ticket title={file?.name ?? ""} under={about && texts.ofIssue(about.id, about.purpose, about.revision)}>
        <Note tone="info" title={texts.asItWasSent}>
          {about && dayOf(about.began)}
        </Note>
        {report && report.pages.length > 1 && (
          <p className="layer-acts">
            <Button size="small" disabled={number <= 1} onClick={() => setNumber(number - 1)}>
              {texts.pageBefore}
            </Button>
            <span>{texts.pageOf(number, report.pages.length)}</span>
            <Button size="small" disabled={number >= report.pages.length} onClick={() => setNumber(number + 1)}>
              {texts.pageAfter}
            </Button>
          </p>
        )}
        {report && <Readings report={report} onShow={setPlace} onGo={go} onDownload={download} />}
        <p className="layer-acts">
          <Link to="/register">{texts.toTheRegister}</Link>
          {about && <Link to={`/jobs/${about.job}/proof`}>{texts.toTheJob(about.job_number)}</Link>}
        </p>
      </Ticket>
      <Calibrate open={calibrating} close={() => setCalibrating(false)} />
    </main>
  );
}

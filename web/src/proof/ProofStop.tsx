import { useIsMutating } from "@tanstack/react-query";
import { Button, Progress } from "antd";
import { useEffect, useMemo, useState } from "react";
import { Link, Navigate, useParams, useSearchParams } from "react-router";
import { changesOf } from "../api/change";
import type { Job, Sheet, Trade } from "../api/client";
import { useMakeProof, useProof } from "../api/proof";
import { cancelWork, useEdit, useTrade } from "../api/queries";
import { useCommands } from "../shell/commands";
import { MainAct, useOpenJob } from "../shell/JobFrame";
import { Calibrate } from "../sheets/Calibrate";
import { paperOf } from "../sheets/geometry";
import { Rulers } from "../sheets/Rulers";
import { SheetStrip } from "../sheets/SheetStrip";
import { PAD, useZoom } from "../sheets/useZoom";
import { ZoomHint } from "../sheets/ZoomHint";
import { Note, Ticket } from "../ticket/Ticket";
import { PdfPage, usePdfPage } from "./PdfPage";
import { RecipeChoice } from "../recipes/RecipeChoice";
import { Readings, type Place } from "./Readings";
import { WholeJob } from "./WholeJob";

function NotMade({ job, sheet, make, busy }: { job: Job; sheet: Sheet; make: () => void; busy: boolean }) {
  const { data: proof } = useProof(job.id, sheet.id, job.state);
  const edit = useEdit(job.id);
  const work = proof?.work;
  const running = work?.state === "queued" || work?.state === "running";
  return (
    <Ticket title={sheet.name} under={running ? "being written and measured" : "not proofed as it is now"}>
      {running ? (
        <>
          <Progress percent={Math.round((work.share ?? 0) * 100)} status="active" />
          <p className="soft">{work.text}</p>
          <Button onClick={() => proof && void cancelWork(proof.key)}>Call off</Button>
        </>
      ) : (
        <>
          {work?.state === "failed" && <Note tone="error" title="The file could not be made.">{work.error}</Note>}
          {!sheet.views?.length && (
            <Note tone="info" title="This sheet is empty.">
              Put a view on it under <Link to={`/jobs/${job.id}/source`}>Source</Link> first.
            </Note>
          )}
          <RecipeChoice value={sheet.recipe} onChange={(recipe) => edit.mutate({ kind: "change_sheet", sheet: sheet.id, fields: { recipe } })} />
          <p>The proof is the real file: Skalto writes it, opens it again with another engine, and measures it.</p>
          <Button type="primary" onClick={make} loading={busy} disabled={!sheet.views?.length}>
            Make the proof <kbd>P</kbd>
          </Button>
        </>
      )}
    </Ticket>
  );
}

function OpenProof({ job, sheet, trade }: { job: Job; sheet: Sheet; trade: Trade }) {
  const { data: proof } = useProof(job.id, sheet.id, job.state);
  const { mutate: make, isPending } = useMakeProof(job.id, sheet.id, job.state);
  const [search, setSearch] = useSearchParams();
  const [calibrating, setCalibrating] = useState(false);
  const [place, setPlace] = useState<Place | null>(null);
  const address = proof?.ready ? `/api/jobs/${job.id}/sheets/${sheet.id}/proof.pdf?key=${encodeURIComponent(proof.key)}` : null;
  const { page, problem } = usePdfPage(address);
  const measured = proof?.report?.pages[0];
  const paper = measured ? { width: measured.width_mm, height: measured.height_mm } : paperOf(sheet, trade);
  const { frame, zoom, ...size } = useZoom(paper, "proof-zoom", () => setCalibrating(true));
  const offset = useMemo(() => ({ left: PAD.left, top: PAD.top }), []);
  const edit = useEdit(job.id);
  const go = ([x0, y0, x1, y1]: Place) => {
    const element = frame.current;
    if (!element) return;
    const factor = Math.min(6, Math.max(1, Math.min(element.clientWidth / ((x1 - x0 + 20) * zoom), element.clientHeight / ((y1 - y0 + 20) * zoom))));
    size.by(factor);
    setPlace([x0, y0, x1, y1]);
    // after the page has its new size
    requestAnimationFrame(() =>
      requestAnimationFrame(() =>
        element.scrollTo({
          left: PAD.left + ((x0 + x1) / 2) * zoom * factor - element.clientWidth / 2,
          top: PAD.top + (paper.height - (y0 + y1) / 2) * zoom * factor - element.clientHeight / 2,
        }),
      ),
    );
  };
  const wanted = search.has("make");
  // a change still on its way belongs into the file
  const changing = useIsMutating({ mutationKey: changesOf(job.id) });
  useEffect(() => {
    if (!wanted || changing) return;
    setSearch({}, { replace: true });
    make();
  }, [wanted, changing, make, setSearch]);
  const download = () => {
    if (!address) return;
    const link = document.createElement("a");
    link.href = address;
    link.download = "";
    link.click();
  };
  useCommands("proof", [
    ...(proof?.ready
      ? [{ id: "download", title: "Download the PDF", key: "D", run: download }]
      : [{ id: "make", title: `Make the proof of ${sheet.name}`, key: "P", run: () => make() }]),
  ]);
  return (
    <>
      <MainAct>
        {proof?.ready ? (
          <Button type="primary" onClick={download}>
            Download the PDF
          </Button>
        ) : (
          <Button type="primary" onClick={() => make()} loading={isPending} disabled={!sheet.views?.length}>
            Make the proof
          </Button>
        )}
      </MainAct>
      <div className="desk" ref={frame}>
        <div className="surface" style={{ width: paper.width * zoom + PAD.left + PAD.right, height: paper.height * zoom + PAD.top + PAD.bottom }}>
          <svg className="under" width={paper.width * zoom + PAD.left + PAD.right} height={paper.height * zoom + PAD.top + 4} aria-hidden>
            <g transform={`translate(${PAD.left} ${PAD.top})`}>
              <rect className="paper" width={paper.width * zoom} height={paper.height * zoom} />
              <Rulers paper={paper} zoom={zoom} />
            </g>
          </svg>
          <div className="on-paper" style={{ left: PAD.left, top: PAD.top, width: paper.width * zoom, height: paper.height * zoom }}>
            {page && <PdfPage page={page} zoom={zoom} width={paper.width} height={paper.height} frame={frame} offset={offset} />}
            {place && (
              <div
                className="measured"
                style={{ left: place[0] * zoom, bottom: place[1] * zoom, width: (place[2] - place[0]) * zoom, height: (place[3] - place[1]) * zoom }}
              />
            )}
            {!proof?.ready && <p className="waiting">No proof of this sheet as it is now.</p>}
            {problem && <p role="alert">The file cannot be shown: {problem}</p>}
          </div>
          <p className="hint soft" style={{ paddingLeft: PAD.left }}>
            <ZoomHint what={proof?.ready ? "Drawn from the file itself" : "Not made"} {...size} />
          </p>
        </div>
      </div>
      {proof?.report ? (
        <Readings report={proof.report} onShow={setPlace} onGo={go} onDownload={download}>
          <WholeJob job={job} />
          <RecipeChoice value={sheet.recipe} onChange={(recipe) => edit.mutate({ kind: "change_sheet", sheet: sheet.id, fields: { recipe } })} />
        </Readings>
      ) : (
        <NotMade job={job} sheet={sheet} make={() => make()} busy={isPending} />
      )}
      <Calibrate open={calibrating} close={() => setCalibrating(false)} />
    </>
  );
}

/** The fourth stop: the real file, drawn and measured. */
export function ProofStop() {
  const job = useOpenJob();
  const { sheet: id } = useParams();
  const { data: trade } = useTrade();
  const sheets = job.document.sheets ?? [];
  const sheet = sheets.find((s) => s.id === id);
  if (!sheet && sheets[0]) return <Navigate to={`/jobs/${job.id}/proof/${sheets[0].id}`} replace />;
  return (
    <div className="desk-row">
      <SheetStrip job={job} stop="proof" current={sheet?.id} />
      {!sheet && (
        <p className="empty-desk">
          <span>
            Nothing to proof yet: put a view on a sheet under <Link to={`/jobs/${job.id}/source`}>Source</Link> first.
          </span>
        </p>
      )}
      {sheet && trade && <OpenProof key={sheet.id} job={job} sheet={sheet} trade={trade} />}
    </div>
  );
}

import { Button } from "antd";
import { useEffect, useMemo, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { useChanging } from "../api/change";
import type { Job, Sheet } from "../api/client";
import { useMakeProof, useProof } from "../api/proof";
import { useEdit } from "../api/queries";
import { MainAct } from "../shell/JobFrame";
import { handOver } from "../common/handOver";
import { Calibrate } from "../paper/Calibrate";
import { isEmpty, paperOf, whyEmpty } from "../paper/geometry";
import { Rulers } from "../paper/Rulers";
import { StopWithSheets } from "../strip/StopWithSheets";
import { PAD, useZoom } from "../paper/useZoom";
import { ZoomHint } from "../paper/ZoomHint";
import { Fact, Ticket } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { useCompared, usePoints, usePrinted } from "../api/looks";
import { ComparePanel } from "./ComparePanel";
import { FindPanel, type Found } from "./FindPanel";
import { LayersPanel, useLayers } from "./LayersPanel";
import { MeasureOverlay, type Measured } from "./MeasureOverlay";
import { MeasurePanel } from "./MeasurePanel";
import { PdfPage, usePdfPage } from "./PdfPage";
import { NotMade } from "./NotMade";
import { PicturePanel } from "./PicturePanel";
import { PrintedSheet } from "./PrintedSheet";
import { usePrinter } from "./printer";
import { PrinterPanel } from "./PrinterPanel";
import { RecipeChoice } from "../recipes/RecipeChoice";
import { Readings, type Place } from "./Readings";
import { useProofCutter } from "../cutting/ProofCutter";
import { useProofSolid } from "../solid/ProofSolid";
import { lookAt } from "./lookAt";
import { ToolChips } from "./ToolChips";
import { TOOLS, type Tool } from "./tools";
import { useProofCommands } from "./useProofCommands";
import { WholeJob } from "./WholeJob";
import * as texts from "./texts";

function ProofAct({ sheet, ready, busy, download, make }: { sheet: Sheet; ready: boolean; busy: boolean; download: () => void; make: () => void }) {
  return (
    <MainAct>
      {ready ? (
        <Button type="primary" onClick={download}>
          {texts.downloadThePdf}
        </Button>
      ) : (
        <Button type="primary" onClick={make} loading={busy} disabled={isEmpty(sheet)} title={whyEmpty(sheet)}>
          {texts.makeTheProof}
        </Button>
      )}
    </MainAct>
  );
}

function OpenProof({ job, sheet }: { job: Job; sheet: Sheet }) {
  const { data: proof } = useProof(job.id, sheet.id, job.state);
  const { mutate: make, isPending } = useMakeProof(job.id, sheet.id, job.state);
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const [calibrating, setCalibrating] = useState(false);
  const [place, setPlace] = useState<Place | null>(null);
  const address = proof?.ready ? `/api/jobs/${job.id}/sheets/${sheet.id}/proof.pdf?key=${encodeURIComponent(proof.key)}` : null;
  // of a file that has other pages, the one that the sheet lies on
  const { page, file, problem } = usePdfPage(address && `${address}${sheet.onto ? "&alone=true" : ""}`);
  const measured = proof?.report?.pages[0];
  const paper = measured ? { width: measured.width_mm, height: measured.height_mm } : paperOf(job, sheet);
  const [tool, setTool] = useState<Tool>("checks");
  const [fileName, setFileName] = useState("");
  const key = proof?.ready ? proof.key : null;
  const printer = usePrinter((state) => state.printer);
  const { data: printed, error: notPrinted } = usePrinted(job.id, sheet.id, tool === "printer" ? key : null, printer);
  const shown = tool === "printer" && proof?.ready ? printer : null;
  const surface = shown ? { width: printed?.printed?.printer.width ?? shown.width, height: printed?.printed?.printer.height ?? shown.height } : paper;
  const { frame, zoom, ...size } = useZoom(surface, "proof-zoom", () => setCalibrating(true));
  const offset = useMemo(() => ({ left: PAD.left, top: PAD.top }), []);
  const edit = useEdit(job.id);
  const go = (to: Place) => {
    if (!frame.current) return;
    setPlace(to);
    lookAt(frame.current, to, paper.height, zoom, size.by);
  };
  const [length, setLength] = useState<Measured | null>(null);
  const [found, setFound] = useState<Found[]>([]);
  const layers = useLayers(file);
  const { data: points } = usePoints(job.id, sheet.id, tool === "measure" ? key : null);
  const compared = useCompared(job.id, sheet.id, tool === "compare" ? key : null);
  const cutter = useProofCutter(job, sheet, tool === "cutter" ? key : null, paper, zoom);
  const solids = useProofSolid(job, sheet, tool === "solid" ? key : null, paper, zoom);
  const choose = (name: Tool) => {
    setTool(name);
    setPlace(null);
  };
  const wanted = search.has("make");
  // a change still on its way belongs into the file
  const changing = useChanging(job.id);
  useEffect(() => {
    if (!wanted || changing) return;
    setSearch({}, { replace: true });
    make();
  }, [wanted, changing, make, setSearch]);
  const download = () => {
    if (!address) return;
    handOver(fileName && fileName !== proof?.file_name ? `${address}&name=${encodeURIComponent(fileName)}` : address);
  };
  useProofCommands({
    sheet,
    ready: !!proof?.ready,
    download,
    choose,
    make: () => make(),
    back: () => (tool === "checks" ? void navigate(`/jobs/${job.id}/sheets/${sheet.id}`) : choose("checks")),
  });
  return (
    <>
      <ProofAct sheet={sheet} ready={!!proof?.ready} busy={isPending} download={download} make={() => make()} />
      <div className="desk" ref={frame}>
        <div className="surface" style={{ width: surface.width * zoom + PAD.left + PAD.right, height: surface.height * zoom + PAD.top + PAD.bottom }}>
          <svg className="under" width={surface.width * zoom + PAD.left + PAD.right} height={surface.height * zoom + PAD.top + 4} aria-hidden>
            <g transform={`translate(${PAD.left} ${PAD.top})`}>
              <rect className="paper" width={surface.width * zoom} height={surface.height * zoom} />
              <Rulers paper={surface} zoom={zoom} />
            </g>
          </svg>
          <div className="on-paper" style={{ left: PAD.left, top: PAD.top, width: surface.width * zoom, height: surface.height * zoom }}>
            {shown ? (
              printed?.printed && <PrintedSheet state={printed} zoom={zoom} />
            ) : (
              <>
                {proof?.ready && (
                  <PdfPage
                    page={page}
                    tiles={`/api/jobs/${job.id}/sheets/${sheet.id}/proof/tiles`}
                    proof={proof.key}
                    zoom={zoom}
                    width={paper.width}
                    height={paper.height}
                    frame={frame}
                    offset={offset}
                    layers={layers.config}
                    turned={layers.turned}
                  />
                )}
                {tool === "compare" && compared.data?.ready && <img className="overlay" src={compared.data.picture} alt={texts.theSheetOverItsLast} />}
                {tool === "find" &&
                  found.map((row, index) => (
                    <div
                      key={index}
                      className="found"
                      style={{
                        left: row.x * zoom,
                        bottom: row.y * zoom,
                        width: row.length * zoom,
                        height: row.height * zoom,
                        transform: `rotate(${-row.angle}rad)`,
                      }}
                    />
                  ))}
                {tool === "measure" && points?.points && (
                  <MeasureOverlay points={points.points} paper={paper} zoom={zoom} measured={length} setMeasured={setLength} />
                )}
                {tool === "solid" && solids.onPage}
                {tool === "cutter" && cutter.onPage}
                {place && (
                  <div
                    className="measured"
                    style={{ left: place[0] * zoom, bottom: place[1] * zoom, width: (place[2] - place[0]) * zoom, height: (place[3] - place[1]) * zoom }}
                  />
                )}
              </>
            )}
            {!proof?.ready && <p className="waiting">{texts.noProofOfThisSheet}</p>}
            {problem && (
              <p role="alert">
                {texts.theFileCannotBeShown} {problem}
              </p>
            )}
          </div>
          <p className="hint soft" style={{ paddingLeft: PAD.left }}>
            <ZoomHint what={shown ? texts.asTheStandInPrinter : proof?.ready ? texts.drawnFromTheFileItself : texts.notMade} {...size} />
          </p>
        </div>
      </div>
      {tool === "solid" && solids.overDesk}
      {proof?.report ? (
        <Ticket title={TOOLS[tool]} under={`${sheet.name}, ${sheet.format}`}>
          <ToolChips sheet={sheet} tool={tool} onChoose={choose} />
          {tool === "checks" && (
            <Readings report={proof.report} onShow={setPlace} onGo={go} onDownload={download}>
              <Fact name={texts.fileName}>
                <TypedField
                  label={texts.fileName}
                  value={fileName || proof.file_name}
                  read={async (text) => text.trim().replace(/\.pdf$/i, "")}
                  onChange={setFileName}
                  suffix=".pdf"
                />
              </Fact>
              <WholeJob job={job} />
              <RecipeChoice value={sheet.recipe} onChange={(recipe) => edit.mutate({ kind: "change_sheet", sheet: sheet.id, fields: { recipe } })} />
            </Readings>
          )}
          {tool === "measure" && <MeasurePanel measured={length} points={points?.points} />}
          {tool === "layers" && <LayersPanel config={layers.config} turn={layers.turn} />}
          {tool === "find" && <FindPanel page={page} found={found} setFound={setFound} onGo={go} />}
          {tool === "compare" && <ComparePanel compared={compared.data} problem={compared.error?.message ?? ""} onGo={go} />}
          {tool === "printer" && <PrinterPanel state={printed} problem={notPrinted?.message ?? ""} />}
          {tool === "solid" && solids.panel}
          {tool === "cutter" && cutter.panel}
          {tool === "picture" && <PicturePanel job={job.id} sheet={sheet.id} sheets={job.document.sheets.filter((s) => !isEmpty(s)).length} />}
        </Ticket>
      ) : (
        <NotMade job={job} sheet={sheet} make={() => make()} busy={isPending} />
      )}
      <Calibrate open={calibrating} close={() => setCalibrating(false)} />
    </>
  );
}

/** The Proof stop: the real file, drawn and measured. */
export function ProofStop() {
  return (
    <StopWithSheets stop="proof" todo="to proof">
      {(job, sheet) => <OpenProof key={sheet.id} job={job} sheet={sheet} />}
    </StopWithSheets>
  );
}

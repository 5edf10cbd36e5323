import { Button, Spin } from "antd";
import { Suspense, useEffect, useMemo, useRef, useState } from "react";
import { useCutterRun } from "../api/cutting";
import type { Job, Schemas, Sheet } from "../api/client";
import { part } from "../common/part";
import { mm, type PaperSize } from "../paper/geometry";
import { Fact, Note, Section } from "../ticket/Ticket";
import { inTime, placeAt } from "./film";
import "./cutting.css";
import * as texts from "./texts";

const CutterDialog = part(async () => (await import("./CutterDialog")).CutterDialog);

type Run = Schemas["CutterRun"];

/** A whole run is shown in about so many seconds. */
const SHOWN = 20;

/** The time of a film, which runs by itself while it plays. */
function useClock(end: number) {
  const [at, setAt] = useState(end);
  const [playing, setPlaying] = useState(false);
  useEffect(() => setAt(end), [end]);
  useEffect(() => {
    if (!playing) return;
    let last = performance.now();
    let frame = requestAnimationFrame(function step(now) {
      setAt((time) => {
        const next = time + ((now - last) / 1000) * (end / SHOWN);
        last = now;
        if (next >= end) setPlaying(false);
        return Math.min(end, next);
      });
      frame = requestAnimationFrame(step);
    });
    return () => cancelAnimationFrame(frame);
  }, [playing, end]);
  const play = () => {
    if (at >= end) setAt(0);
    setPlaying(!playing);
  };
  return { at, playing, play, scrub: (time: number) => (setPlaying(false), setAt(time)) };
}

/** The way of the head over the plate up to a time; at the end the pieces lie apart from the rest. */
function Film({ run, at, paper, zoom }: { run: Run; at: number; paper: PaperSize; zoom: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, height] = [Math.ceil(paper.width * zoom), Math.ceil(paper.height * zoom)];
  const end = run.times.at(-1) ?? 0;
  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen) return;
    const style = getComputedStyle(document.documentElement);
    const colour = (name: string) => style.getPropertyValue(name).trim();
    const inks = [colour("--off"), colour("--error"), colour("--accent"), colour("--warning"), "transparent"];
    const dots = window.devicePixelRatio || 1;
    pen.setTransform(dots, 0, 0, dots, 0, 0);
    pen.clearRect(0, 0, width, height);
    const x = (n: number) => (run.points[n]?.[0] ?? 0) * zoom;
    const y = (n: number) => (paper.height - (run.points[n]?.[1] ?? 0)) * zoom;
    if (at >= end) {
      pen.fillStyle = colour("--accent-soft");
      pen.strokeStyle = colour("--accent");
      for (const rings of run.pieces) {
        pen.beginPath();
        for (const ring of rings) {
          ring.forEach(([px, py], n) => (n ? pen.lineTo(px * zoom, (paper.height - py) * zoom) : pen.moveTo(px * zoom, (paper.height - py) * zoom)));
          pen.closePath();
        }
        pen.fill("evenodd");
      }
    }
    const last = placeAt(run.times, at);
    for (const doing of [0, 3, 2, 1]) {
      pen.beginPath();
      pen.strokeStyle = inks[doing] as string;
      pen.lineWidth = doing === 1 ? 1.4 : doing ? 1 : 0.6;
      let open = false;
      for (let n = 0; n < last; n++) {
        if (run.doing[n] === doing) {
          if (!open) pen.moveTo(x(n), y(n));
          pen.lineTo(x(n + 1), y(n + 1));
          open = true;
        } else open = false;
      }
      pen.stroke();
    }
    // where the head is now, on its way to the next point
    const [from, to] = [run.times[last] ?? 0, run.times[last + 1] ?? 0];
    const share = to > from ? Math.min(1, (at - from) / (to - from)) : 0;
    const next = Math.min(last + 1, run.points.length - 1);
    const head: [number, number] = [x(last) + (x(next) - x(last)) * share, y(last) + (y(next) - y(last)) * share];
    pen.beginPath();
    pen.strokeStyle = inks[run.doing[last] ?? 0] as string;
    pen.moveTo(x(last), y(last));
    pen.lineTo(...head);
    pen.stroke();
    pen.beginPath();
    pen.fillStyle = colour("--ink");
    pen.arc(...head, 4, 0, 7);
    pen.fill();
  }, [run, at, end, paper, zoom, width, height]);
  const dots = window.devicePixelRatio || 1;
  return (
    <canvas
      ref={canvas}
      className="cutter-film"
      width={width * dots}
      height={height * dots}
      style={{ width, height }}
      aria-label={texts.wayOfTheHead}
      role="img"
    />
  );
}

function Pieces({ report }: { report: Schemas["RunReport"] }) {
  const parts = report.pieces.filter((piece) => piece.part);
  const waste = report.pieces.length - parts.length;
  return (
    <Section title={texts.whatFallsOut}>
      <ul className="cut-rows">
        {parts.map((piece, index) => (
          <li key={index}>
            <span>{piece.name}</span>
            <span className="soft">{texts.offBy(mm(piece.deviation_um ?? 0, 1))}</span>
          </li>
        ))}
      </ul>
      {waste > 0 && <p className="soft small">{texts.piecesOfWaste(waste)}</p>}
    </Section>
  );
}

/** The finished file in the stand-in cutter: the way of its head as a film, the time, and the pieces that fall out. */
export function useProofCutter(job: Job, sheet: Sheet, key: string | null, paper: PaperSize, zoom: number) {
  const { data, error } = useCutterRun(job.id, sheet.id, key);
  const [cutter, setCutter] = useState(false);
  const run = data?.report ? data : undefined;
  const end = useMemo(() => run?.times.at(-1) ?? 0, [run]);
  const { at, playing, play, scrub } = useClock(end);
  const problem = error?.message ?? (data?.work?.state === "failed" ? data.work.error : "");
  if (!run?.report) return { onPage: null, panel: problem ? <p role="alert">{problem}</p> : <Spin description={texts.runningTheFile} /> };
  const { report } = run;
  return {
    onPage: <Film run={run} at={at} paper={paper} zoom={zoom} />,
    panel: (
      <>
        <div className="film-acts">
          <Button onClick={play}>{playing ? texts.pause : texts.play}</Button>
          <input
            type="range"
            aria-label={texts.timeOfTheRun}
            min={0}
            max={end}
            step={end / 1000 || 1}
            value={at}
            onChange={(event) => scrub(Number(event.target.value))}
          />
          <span className="soft">{inTime(at)}</span>
        </div>
        <Fact name={texts.wholeTime}>{inTime(report.total)}</Fact>
        {(["cut", "score", "engrave", "moves", "pierces"] as const).map(
          (what) =>
            report.seconds[what] > 0 && (
              <Fact key={what} name={texts.spentOn[what]}>
                {inTime(report.seconds[what])}
              </Fact>
            ),
        )}
        <Fact name={texts.material}>{`${report.material}, ${report.thickness} ${texts.mm}`}</Fact>
        <p className="layer-acts">
          <button type="button" onClick={() => setCutter(true)}>
            {texts.settingsOfTheCutter}
          </button>
        </p>
        <Suspense>{cutter && <CutterDialog close={() => setCutter(false)} />}</Suspense>
        {report.refusals.map((sentence) => (
          <Note key={sentence} tone="error" title={sentence} />
        ))}
        {report.notices.map((sentence) => (
          <Note key={sentence} tone="info" title={sentence} />
        ))}
        <Pieces report={report} />
      </>
    ),
  };
}

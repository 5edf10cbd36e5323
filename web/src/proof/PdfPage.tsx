import { getDocument, GlobalWorkerOptions, PDFWorker, type PDFDocumentProxy, type PDFPageProxy, type RenderTask } from "pdfjs-dist";
import worker from "pdfjs-dist/build/pdf.worker.min.mjs?url";
import { useCallback, useEffect, useRef, useState } from "react";
import type { LayerConfig } from "./LayersPanel";
import { Tiles } from "./Tiles";
import * as texts from "./texts";

GlobalWorkerOptions.workerSrc = worker;
/** One for all files, started with the page that may need it. */
const reader = new PDFWorker();
const MM_PER_POINT = 25.4 / 72;

/** A PDF file, opened from its address, and one of its pages, from 1. */
export function usePdfPage(address: string | null, number = 1) {
  const [page, setPage] = useState<PDFPageProxy | null>(null);
  const [file, setFile] = useState<PDFDocumentProxy | null>(null);
  const [problem, setProblem] = useState("");
  useEffect(() => {
    setPage(null);
    setFile(null);
    setProblem("");
    if (!address) return;
    let left = false;
    let document: PDFDocumentProxy | null = null;
    const task = getDocument({ url: address, worker: reader });
    task.promise
      .then(async (opened) => {
        document = opened;
        const first = await opened.getPage(Math.min(number, opened.numPages));
        if (left) return;
        setFile(opened);
        setPage(first);
      })
      .catch((error: Error) => !left && setProblem(error.message));
    return () => {
      left = true;
      void (document ? document.loadingTask.destroy() : task.destroy());
    };
  }, [address, number]);
  return { page, file, problem };
}

interface Props {
  page: PDFPageProxy | null;
  /** Where the page's tiles are, which show it while it takes long to draw. */
  tiles?: string;
  /** Names the proof that the tiles are of. */
  proof: string;
  /** Pixels a millimetre. */
  zoom: number;
  width: number;
  height: number;
  /** The scrolling element around, whose visible part alone is drawn: any zoom costs a screenful. */
  frame: React.RefObject<HTMLDivElement | null>;
  offset: { left: number; top: number };
  /** Which layers show; drawn anew when they are turned. */
  layers?: LayerConfig | null;
  turned?: number;
}

/** What of the page is in sight, px at the zoom. */
interface Sight {
  left: number;
  top: number;
  wide: number;
  high: number;
}

/** What lasts longer than this is shown in tiles meanwhile, ms. */
const PATIENCE = 120;

/** The real file's page, drawn by pdf.js; while that lasts, in tiles that the server draws. */
export function PdfPage({ page, tiles, proof, zoom, width, height, frame, offset, layers, turned }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const task = useRef<RenderTask | null>(null);
  // which page has been drawn, and at which zoom: a large picture in it takes seconds
  const [drawn, setDrawn] = useState<{ page: PDFPageProxy; zoom: number; sight: Sight } | null>(null);
  const [waiting, setWaiting] = useState<Sight | null>(null);
  const draw = useCallback(async () => {
    const element = frame.current;
    const target = canvas.current;
    if (!element || !target) return;
    const left = Math.max(0, element.scrollLeft - offset.left);
    const top = Math.max(0, element.scrollTop - offset.top);
    const wide = Math.min(width * zoom - left, element.clientWidth + 2);
    const high = Math.min(height * zoom - top, element.clientHeight + 2);
    if (wide <= 0 || high <= 0) return;
    const sight = { left, top, wide, high };
    task.current?.cancel();
    // of a file that is still being opened, at once
    const patience = window.setTimeout(() => setWaiting(sight), page ? PATIENCE : 0);
    if (!page) return;
    const density = window.devicePixelRatio || 1;
    const fresh = document.createElement("canvas");
    fresh.width = Math.ceil(wide * density);
    fresh.height = Math.ceil(high * density);
    const viewport = page.getViewport({
      scale: zoom * MM_PER_POINT * density * (page.userUnit || 1),
      offsetX: -left * density,
      offsetY: -top * density,
    });
    const running = page.render({ canvas: fresh, viewport, ...(layers ? { optionalContentConfigPromise: Promise.resolve(layers) } : {}) });
    task.current = running;
    try {
      await running.promise;
    } catch {
      window.clearTimeout(patience);
      return; // called off by a newer drawing
    }
    window.clearTimeout(patience);
    target.width = fresh.width;
    target.height = fresh.height;
    target.getContext("2d")?.drawImage(fresh, 0, 0);
    target.dataset.drawn = zoom.toFixed(4);
    target.dataset.turned = String(turned ?? 0);
    setWaiting(null);
    setDrawn({ page, zoom, sight });
  }, [page, zoom, width, height, frame, offset, layers, turned]);

  useEffect(() => {
    const element = frame.current;
    void draw();
    let asked = 0;
    const later = () => {
      cancelAnimationFrame(asked);
      asked = requestAnimationFrame(() => void draw());
    };
    element?.addEventListener("scroll", later);
    const observer = new ResizeObserver(later);
    if (element) observer.observe(element);
    return () => {
      cancelAnimationFrame(asked);
      element?.removeEventListener("scroll", later);
      observer.disconnect();
    };
  }, [draw, frame]);

  const known = drawn && drawn.page === page ? drawn : null;
  const grown = known ? zoom / known.zoom : 1;
  return (
    <div className="pdf" style={{ width: width * zoom, height: height * zoom }}>
      {/* until it is drawn anew, as it was, at its place */}
      <canvas
        ref={canvas}
        aria-label={texts.theFileSPage}
        role="img"
        style={
          known
            ? { left: known.sight.left * grown, top: known.sight.top * grown, width: known.sight.wide * grown, height: known.sight.high * grown }
            : { visibility: "hidden" }
        }
      />
      {waiting && !turned && tiles && <Tiles at={tiles} proof={proof} zoom={zoom} width={width} height={height} sight={waiting} />}
      {!known && <p className="drawing soft">{texts.drawingTheFile}</p>}
    </div>
  );
}

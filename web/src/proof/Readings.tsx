import { Button } from "antd";
import type { ReactNode } from "react";
import type { Reading, Report } from "../api/client";
import { Ticket } from "../ticket/Ticket";
import { mm } from "../sheets/geometry";

interface Line {
  title: string;
  holds: "holds" | "mend" | "fails";
  left: string;
  right: string;
  place?: Reading["place"];
}

const micrometres = (um: number) => `off ${Math.abs(um).toFixed(um !== 0 && Math.abs(um) < 0.1 ? 2 : 1)} µm`;
const upper = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** What a view of the file is called: sections and details by their letters. */
const called = (view: string) => (/^(section|detail) /i.test(view) ? view : `${view} view`);

function readingLine(view: string, scale: string, reading: Reading): Line {
  const name = `${upper(called(view))}, ${scale}`;
  const sign = reading.kind === "diameter" ? "⌀" : `${reading.kind} `;
  if (reading.measured_mm === null || reading.measured_mm === undefined)
    return { title: name, holds: "fails", left: `${sign}${reading.expected_mm.toFixed(4)} not found`, right: "", place: reading.place };
  return {
    title: name,
    holds: reading.holds ? "holds" : "fails",
    left: `${sign}${reading.measured_mm.toFixed(4)} for ${mm(reading.expected_mm, 4)} mm`,
    right: micrometres(reading.deviation_um ?? 0),
    place: reading.place,
  };
}

function lines(report: Report): Line[] {
  const page = report.pages[0];
  if (!page) return [];
  const readings = page.views.flatMap((view) => (view.readings ?? []).map((reading) => readingLine(view.name, view.scale, reading)));
  const scales = page.views.map((view): Line => {
    const found = view.viewport_scale;
    const [paper = 1, model = 1] = view.scale.split(":").map(Number);
    const holds = typeof found === "number" && Math.abs(found / (paper / model) - 1) <= 1e-6;
    const shown = typeof found !== "number" ? "no viewport" : found >= 1 ? `${mm(found, 6)}:1` : `1:${mm(1 / found, 6)}`;
    return { title: `Ruler, ${called(view.name)}`, holds: holds ? "holds" : "fails", left: `a reader measures at ${shown}`, right: "" };
  });
  const found = (code: string) => report.findings.find((finding) => finding.code === code);
  const printing = found("print-scaling") ?? found("print-tray");
  const told = report.findings.filter((f) => !["length", "length-missing", "viewport-scale", "viewport-missing", "print-scaling", "print-tray", "format", "thin-line"].includes(f.code));
  const thin = found("thin-line");
  return [
    { title: "Format", holds: found("format") ? "fails" : "holds", left: `${page.width_mm.toFixed(4)} × ${page.height_mm.toFixed(4)} mm`, right: "" },
    ...readings,
    ...scales,
    ...(page.min_line_width_mm === null || page.min_line_width_mm === undefined
      ? []
      : [{ title: "Lines", holds: thin ? ("mend" as const) : ("holds" as const), left: `thinnest ${page.min_line_width_mm} mm`, right: `thickest ${page.max_line_width_mm} mm` }]),
    { title: "Printing", holds: printing ? "mend" : "holds", left: printing?.message ?? "no scaling, tray by size", right: "" },
    ...told.map((finding): Line => ({
      title: finding.code === "outside" ? "Outside the sheet" : "Note",
      holds: finding.level === "error" ? "fails" : finding.level === "warning" ? "mend" : "holds",
      left: finding.message,
      right: "",
    })),
  ];
}

interface Props {
  report: Report;
  onShow: (place: [number, number, number, number] | null) => void;
  onDownload: () => void;
  children?: ReactNode;
}

/** What was read from the finished file, each with its verdict. */
export function Readings({ report, onShow, onDownload, children }: Props) {
  const all = lines(report);
  const good = all.filter((line) => line.holds === "holds").length;
  return (
    <Ticket title="Measured in the file" under={`${all.length} readings · ${good} hold`}>
      <Button type="primary" block onClick={onDownload}>
        Download the PDF <kbd>D</kbd>
      </Button>
      {children}
      <ul className="readings">
        {all.map((line, index) => (
          <li key={index} onMouseEnter={() => onShow((line.place as [number, number, number, number]) ?? null)} onMouseLeave={() => onShow(null)}>
            <strong>{line.title}</strong>
            <b className={line.holds}>{line.holds}</b>
            <span>{line.left}</span>
            <em>{line.right}</em>
          </li>
        ))}
      </ul>
    </Ticket>
  );
}

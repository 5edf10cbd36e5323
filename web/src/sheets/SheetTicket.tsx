import { Button, Segmented, Select } from "antd";
import { Link } from "react-router";
import type { Job, Sheet } from "../api/client";
import { readFormat, usePicture, useTrade } from "../api/queries";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { boxOf, excess, mm, paperOf } from "./geometry";

interface Props {
  job: Job;
  sheet: Sheet;
  change: (fields: Partial<Sheet>) => void;
  onView: (id: string) => void;
  onRemove: () => void;
}

function ViewRow({ job, sheet, index, onView }: { job: Job; sheet: Sheet; index: number; onView: (id: string) => void }) {
  const view = sheet.views?.[index];
  const { data: trade } = useTrade();
  const { data } = usePicture(job.id, sheet.id, view);
  if (!view) return null;
  const box = boxOf(view, data?.picture);
  const over = box ? excess(box, paperOf(sheet, trade)) : [];
  return (
    <li>
      <button type="button" onClick={() => onView(view.id)}>
        <strong>{view.name}</strong> {view.scale}
        <em>{box ? `${mm(box[2] - box[0], 1)} × ${mm(box[3] - box[1], 1)} mm` : "…"}</em>
        {over.length > 0 && <span className="over">leaves the sheet: {over.map((o) => `${mm(o.by, 2)} mm ${o.side}`).join(", ")}</span>}
      </button>
    </li>
  );
}

/** The facts of a sheet. */
export function SheetTicket({ job, sheet, change, onView, onRemove }: Props) {
  const { data: trade } = useTrade();
  const paper = paperOf(sheet, trade);
  const views = sheet.views ?? [];
  const read = async (text: string) => (await readFormat(text)).name;
  const setFormat = async (text: string) => {
    const found = await readFormat(text);
    const named = trade?.formats.some((f) => f.name === found.name);
    // a size that was typed lies as typed; a named format keeps the way that the sheet lies
    change(named ? { format: found.name } : { format: found.name, orientation: found.width > found.height ? "landscape" : "portrait" });
  };
  return (
    <Ticket title={sheet.name} under={`${mm(paper.width)} × ${mm(paper.height)} mm`}>
      <Fact name="Name">
        <TypedField label="Sheet name" value={sheet.name} read={async (t) => t.trim() || sheet.name} onChange={(name) => change({ name })} />
      </Fact>
      <Fact name="Format">
        <span className="pair">
          <TypedField label="Format" value={sheet.format ?? ""} read={read} onChange={(text) => void setFormat(text)} />
          <Select
            aria-label="Named formats"
            variant="borderless"
            value={null}
            placeholder="named"
            popupMatchSelectWidth={false}
            onChange={(name: string | null) => name && void setFormat(name)}
            options={trade?.formats.map((f) => ({ value: f.name, label: `${f.name}  ${mm(f.width, 1)} × ${mm(f.height, 1)}` }))}
          />
        </span>
      </Fact>
      <Fact name="Lies">
        <Segmented<"portrait" | "landscape">
          size="small"
          aria-label="Orientation"
          value={sheet.orientation ?? "landscape"}
          onChange={(orientation) => change({ orientation })}
          options={["landscape", "portrait"]}
        />
      </Fact>
      <Fact name="Frame">
        <Segmented<"iso" | "none">
          size="small"
          aria-label="Frame"
          value={sheet.frame ?? "iso"}
          onChange={(frame) => change({ frame })}
          options={[
            { value: "iso", label: "ISO 5457" },
            { value: "none", label: "none" },
          ]}
        />
      </Fact>
      <Section title="Views">
        {!views.length && (
          <Note tone="info" title="This sheet is empty.">
            Choose a direction under <Link to={`/jobs/${job.id}/source`}>Source</Link> and put it on the sheet.
          </Note>
        )}
        <ul className="view-list">
          {views.map((view, index) => (
            <ViewRow key={view.id} job={job} sheet={sheet} index={index} onView={onView} />
          ))}
        </ul>
      </Section>
      <Button type="link" danger className="take-out" onClick={onRemove}>
        Remove this sheet
      </Button>
    </Ticket>
  );
}

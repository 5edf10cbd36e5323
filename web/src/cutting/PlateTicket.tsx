import { Button, Checkbox } from "antd";
import { Suspense, useEffect, useRef, useState } from "react";
import { drawnOnPlates, listOf, usePlateFigures, useProfiles, type useArranging } from "../api/cutting";
import type { Edit, Job, Schemas, Sheet } from "../api/client";
import { mm } from "../paper/geometry";
import { part as lazy } from "../common/part";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { Artwork } from "../views/Artwork";
import { Decorations } from "./Decorations";
import { CutFacts } from "./PlateFacts";
import { StockFacts } from "./StockFacts";
import { length, number, whole } from "../views/typing";
import * as texts from "./texts";

const percent = new Intl.NumberFormat("en", { style: "percent", maximumFractionDigits: 1 });
const rounded = new Intl.NumberFormat("en", { maximumSignificantDigits: 4 });

const CutterDialog = lazy(async () => (await import("./CutterDialog")).CutterDialog);

interface Props {
  job: Job;
  sheet: Sheet;
  /** The part that is selected. */
  part: string | undefined;
  /** The decoration that is selected. */
  drawn: string | null;
  arranging: ReturnType<typeof useArranging>;
  edit: (edit: Edit) => void;
  onPart: (id: string | null, drawn?: string | null) => void;
  /** Puts what is cut from which plate on a sheet of its own. */
  onTable: () => void;
}

/** Brings what it stands in into sight when it is of another thing. */
function InSight({ what }: { what: string }) {
  const here = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    // newer browsers give a promise back, which is no way to clear up
    void here.current?.scrollIntoView({ block: "center" });
  }, [what]);
  return <span ref={here} />;
}

/** A part on its plate. */
function PartFacts({ job, sheet, part, drawn, edit, onPart }: Omit<Props, "arranging" | "onTable">) {
  const { data } = useProfiles(job.id, listOf(job, sheet), drawnOnPlates(job, sheet));
  const placed = sheet.cutting?.placed.find((own) => own.id === part);
  const own = listOf(job, sheet)?.parts.find((other) => other.id === placed?.part);
  if (!placed || !own) return null;
  const [x0, y0, x1, y1] = data?.profiles?.[own.id]?.box ?? [0, 0, 0, 0];
  const middle: [number, number] = [(x0 + x1) / 2, (y0 + y1) / 2];
  const change = (fields: Schemas["ProfilePatch"]) => edit({ kind: "change_profile", sheet: sheet.id, profile: placed.id, fields });
  return (
    <Section title={own.name}>
      <InSight what={placed.id} />
      <Fact name={texts.position}>
        <span className="pair">
          <TypedField label="X" value={mm(placed.x)} length read={length} onChange={(x) => change({ x: Number(x) })} />
          <TypedField label="Y" value={mm(placed.y)} length read={length} suffix={texts.mm} onChange={(y) => change({ y: Number(y) })} />
        </span>
      </Fact>
      <Fact name={texts.rotation}>
        <span className="pair">
          <TypedField label={texts.rotation} value={mm(placed.turn)} read={number} suffix={texts.degrees} onChange={(turn) => change({ turn: Number(turn) })} />
          <button type="button" className="as-file" onClick={() => change({ turn: (placed.turn + 90) % 360 })}>
            {texts.turnQuarter}
          </button>
        </span>
      </Fact>
      <Checkbox checked={placed.flipped} onChange={(event) => change({ flipped: event.target.checked })}>
        {texts.turnedOver}
      </Checkbox>
      <Checkbox checked={placed.pinned} onChange={(event) => change({ pinned: event.target.checked })}>
        {texts.pinned}
      </Checkbox>
      <Button
        type="link"
        danger
        className="take-out"
        onClick={() => {
          onPart(null);
          edit({ kind: "remove_profile", sheet: sheet.id, profile: placed.id });
        }}
      >
        {texts.takeOff}
      </Button>
      <Decorations job={job} sheet={sheet} part={own} middle={middle} selected={drawn} edit={edit} onSelect={(id) => onPart(placed.id, id)} />
    </Section>
  );
}

function Arrange({ arranging, empty }: { arranging: Props["arranging"]; empty: boolean }) {
  const [seconds, setSeconds] = useState("20");
  const { running, found, start, stop } = arranging;
  if (running)
    return (
      <>
        <p role="status">{found?.summary || texts.arranging}</p>
        <Button onClick={stop} disabled={!found?.contents}>
          {texts.stopAndKeep}
        </Button>
      </>
    );
  return (
    <>
      <Fact name={texts.lookFor}>
        <TypedField label={texts.lookFor} value={seconds} read={whole} suffix={texts.seconds} onChange={setSeconds} />
      </Fact>
      <Button onClick={() => start(Math.min(600, Math.max(1, Number(seconds))))}>{empty ? texts.arrange : texts.arrangeAnew}</Button>
    </>
  );
}

/** The facts of a plate: what is cut, from what, how, and what it is worth as it lies. */
export function PlateTicket({ job, sheet, part, drawn, arranging, edit, onPart, onTable }: Props) {
  const list = listOf(job, sheet);
  const { data: figures } = usePlateFigures(job, sheet.id);
  const [cutter, setCutter] = useState(false);
  const { data } = useProfiles(job.id, list, drawnOnPlates(job, sheet));
  if (!list || !sheet.cutting) return null;
  const plates = job.document.sheets.filter((own) => own.cutting?.cut_list === list.id);
  const stock = list.plates[sheet.cutting.plate];
  const change = (which: string, fields: Partial<(typeof list.parts)[number]>) =>
    edit({
      kind: "change_cut_list",
      cut_list: list.id,
      fields: { parts: list.parts.map((own) => (own.id === which ? { ...own, ...fields } : own)) },
    });
  const quantity = (which: string, count: number) => change(which, { quantity: count });
  const turning = (which: string, way: (typeof list.parts)[number]["turning"]) => change(which, { turning: way });
  return (
    <Ticket title={sheet.name} under={stock && `${texts.plate} ${plates.findIndex((own) => own.id === sheet.id) + 1} / ${plates.length}`}>
      <PartFacts job={job} sheet={sheet} part={part} drawn={drawn} edit={edit} onPart={onPart} />
      {figures?.notices.map((own) => (
        <Note key={own.message} tone={own.level === "error" ? "error" : "warning"} title={own.message} />
      ))}
      <Section title={texts.asItLies}>
        {!sheet.cutting.placed.length && <Note tone="info" title={texts.nothingLies} />}
        {figures && (
          <>
            <Fact name={texts.yieldWord}>{texts.ofAtMost(percent.format(figures.yield), percent.format(figures.bound))}</Fact>
            <Fact name={texts.cutLength}>{texts.metres(rounded.format(figures.cut_mm / 1000))}</Fact>
            <Fact name={texts.pierces}>{figures.pierces}</Fact>
            {figures.grams !== null && <Fact name={texts.massOfTheParts}>{texts.grams(rounded.format(figures.grams))}</Fact>}
            {figures.price !== null && <Fact name={texts.price}>{figures.price}</Fact>}
          </>
        )}
        <Arrange arranging={arranging} empty={!sheet.cutting.placed.length} />
      </Section>
      <Section title={texts.parts}>
        <ul className="cut-rows">
          {list.parts.map((own) => (
            <li key={own.id}>
              <span>{own.name}</span>
              <select
                className="how"
                aria-label={texts.turningOf(own.name)}
                value={own.turning ?? ""}
                onChange={(event) => turning(own.id, (event.target.value || null) as typeof own.turning)}
              >
                <option value="">{texts.asTheList}</option>
                {(["any", "quarter", "half", "none"] as const).map((way) => (
                  <option key={way} value={way}>
                    {texts[way]}
                  </option>
                ))}
              </select>
              <TypedField label={texts.quantityOf(own.name)} value={String(own.quantity)} read={whole} onChange={(v) => quantity(own.id, Number(v))} />
            </li>
          ))}
        </ul>
        {list.parts
          .flatMap((own) => data?.profiles?.[own.id]?.notes ?? [])
          .map((note) => (
            <p key={note} className="soft small">
              {note}
            </p>
          ))}
      </Section>
      <Decorations
        job={job}
        sheet={sheet}
        part={null}
        middle={stock ? [stock.width / 2, stock.height / 2] : [0, 0]}
        selected={part ? null : drawn}
        edit={edit}
        onSelect={(id) => onPart(null, id)}
      />
      <p className="layer-acts">
        <a href={`/api/jobs/${job.id}/cut-lists/${list.id}/plates.csv`} download>
          {texts.tableOfPlates}
        </a>
        <button type="button" onClick={onTable}>
          {texts.tableOnASheet}
        </button>
      </p>
      {sheet.cutting.placed.length > 0 && <Artwork job={job.id} sheet={sheet.id} what={texts.thisPlate} />}
      <StockFacts job={job} list={list} plate={sheet.cutting.plate} edit={edit} />
      <CutFacts list={list} figures={figures} edit={edit} onCutter={() => setCutter(true)} />
      <Suspense>{cutter && <CutterDialog close={() => setCutter(false)} />}</Suspense>
      <Button type="link" danger className="take-out" onClick={() => edit({ kind: "remove_cut_list", cut_list: list.id })}>
        {texts.removeTheList}
      </Button>
    </Ticket>
  );
}

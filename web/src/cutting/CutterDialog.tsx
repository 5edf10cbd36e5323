import { Button, Modal } from "antd";
import { useState } from "react";
import { useCutter, useKeepCutter, useShippedCutter, type Cutter } from "../api/cutting";
import { Fact, Note, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { size, sizeOf } from "../views/sizes";
import { factor, millimetres, whole, words } from "../views/typing";
import "./cutting.css";
import * as texts from "./texts";

type Row = Cutter["chart"][number];
const CORNERS = ["top-left", "top-right", "bottom-left", "bottom-right"] as const;
const OPERATIONS = ["cut", "score", "engrave"] as const;

/** The figures of a row of the chart, in the order of their columns. */
const COLUMNS = [
  ["thickness", texts.mm, millimetres],
  ["cut", texts.mmPerS, factor],
  ["score", texts.mmPerS, factor],
  ["engrave", texts.mmPerS, factor],
  ["power", texts.percent, whole],
  ["passes", "", whole],
  ["dpi", "", whole],
  ["kerf", texts.mm, millimetres],
] as const;

interface Part {
  cutter: Cutter;
  change: (fields: Partial<Cutter>) => void;
}

function Codes({ cutter, change }: Part) {
  const set = (what: (typeof OPERATIONS)[number], fields: Partial<Cutter["codes"]["cut"]>) =>
    change({ codes: { ...cutter.codes, [what]: { ...cutter.codes[what], ...fields } } });
  return (
    <Section title={texts.codes}>
      <table className="cutter-table">
        <thead>
          <tr>
            {[texts.operation, texts.layer, texts.colour, texts.lineWidth].map((head) => (
              <th key={head}>{head}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {OPERATIONS.map((what) => {
            const code = cutter.codes[what];
            return (
              <tr key={what}>
                <td>{texts[what]}</td>
                <td>
                  <TypedField label={`${texts.layer}, ${what}`} value={code.layer} read={words} onChange={(layer) => set(what, { layer })} />
                </td>
                <td>
                  <input
                    type="color"
                    aria-label={`${texts.colour}, ${what}`}
                    value={code.colour}
                    onChange={(event) => set(what, { colour: event.target.value })}
                  />
                </td>
                <td>
                  <TypedField
                    label={`${texts.lineWidth}, ${what}`}
                    value={String(code.width)}
                    read={millimetres}
                    suffix={texts.mm}
                    onChange={(width) => set(what, { width: Number(width) })}
                  />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Section>
  );
}

function Chart({ cutter, change }: Part) {
  const set = (at: number, fields: Partial<Row>) => change({ chart: cutter.chart.map((row, n) => (n === at ? { ...row, ...fields } : row)) });
  const last = cutter.chart.at(-1);
  return (
    <Section title={texts.chart}>
      <table className="cutter-table chart">
        <thead>
          <tr>
            <th>{texts.material}</th>
            {COLUMNS.map(([name, unit]) => (
              <th key={name}>
                {texts.columns[name]} {unit && <em className="soft">{unit}</em>}
              </th>
            ))}
            <th />
          </tr>
        </thead>
        <tbody>
          {cutter.chart.map((row, at) => (
            <tr key={at}>
              <td>
                <TypedField label={texts.materialOf(at + 1)} value={row.material} read={words} onChange={(material) => set(at, { material })} />
              </td>
              {COLUMNS.map(([name, , read]) => (
                <td key={name}>
                  <TypedField
                    label={texts.ofRow(texts.columns[name], at + 1)}
                    value={String(row[name])}
                    read={read}
                    onChange={(value) => set(at, { [name]: Number(value) })}
                  />
                </td>
              ))}
              <td>
                <button
                  type="button"
                  className="as-file"
                  aria-label={texts.removeRow(at + 1)}
                  disabled={cutter.chart.length < 2}
                  onClick={() => change({ chart: cutter.chart.filter((_, n) => n !== at) })}
                >
                  ×
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="layer-acts">
        <button type="button" onClick={() => last && change({ chart: [...cutter.chart, { ...last }] })}>
          {texts.addARow}
        </button>
      </p>
    </Section>
  );
}

function Bed({ cutter, change }: Part) {
  return (
    <Section title={texts.machine}>
      <Fact name={texts.bed}>
        <TypedField
          label={texts.bed}
          value={`${cutter.width} × ${cutter.height}`}
          read={size}
          suffix={texts.mm}
          onChange={(text) => {
            const [width, height] = sizeOf(text) ?? [cutter.width, cutter.height];
            change({ width, height });
          }}
        />
      </Fact>
      <Fact name={texts.homeCorner}>
        <select aria-label={texts.homeCorner} value={cutter.corner} onChange={(event) => change({ corner: event.target.value as Cutter["corner"] })}>
          {CORNERS.map((corner) => (
            <option key={corner}>{corner}</option>
          ))}
        </select>
      </Fact>
      <Fact name={texts.hairline}>
        <TypedField
          label={texts.hairline}
          value={String(cutter.hairline)}
          read={millimetres}
          suffix={texts.mm}
          onChange={(v) => change({ hairline: Number(v) })}
        />
      </Fact>
      {(["rapid", "acceleration", "row_acceleration", "pierce"] as const).map((name) => (
        <Fact key={name} name={texts.motion[name]}>
          <TypedField
            label={texts.motion[name]}
            value={String(cutter[name])}
            read={factor}
            suffix={texts.motionUnits[name]}
            onChange={(v) => change({ [name]: Number(v) })}
          />
        </Fact>
      ))}
    </Section>
  );
}

/** The cutter's settings, for all jobs. */
export function CutterDialog({ close }: { close: () => void }) {
  const { data: kept } = useCutter();
  const { data: shipped } = useShippedCutter();
  const keep = useKeepCutter();
  const [draft, setDraft] = useState<Cutter | null>(null);
  const cutter = draft ?? kept;
  if (!cutter) return null;
  const change = (fields: Partial<Cutter>) => setDraft({ ...cutter, ...fields });
  return (
    <Modal
      open
      width={760}
      style={{ top: 20 }}
      className="cut-dialog"
      title={texts.cutterSettings}
      onCancel={close}
      footer={[
        <Button key="shipped" disabled={!shipped} onClick={() => shipped && setDraft(shipped)}>
          {texts.asItShips}
        </Button>,
        <Button key="cancel" onClick={close}>
          {texts.cancel}
        </Button>,
        <Button key="keep" type="primary" loading={keep.isPending} disabled={!draft} onClick={() => draft && keep.mutate(draft, { onSuccess: close })}>
          {texts.keepThese}
        </Button>,
      ]}
    >
      <Note tone="info" title={texts.forAllJobs} />
      <div className="cutter-halves">
        <Bed cutter={cutter} change={change} />
        <Codes cutter={cutter} change={change} />
      </div>
      <Chart cutter={cutter} change={change} />
    </Modal>
  );
}

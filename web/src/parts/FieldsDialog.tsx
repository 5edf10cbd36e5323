import { App, Checkbox, Modal } from "antd";
import { useState } from "react";
import { said, type Job } from "../api/client";
import { useLatest } from "../api/change";
import { KINDS, useNumbersInNames, useTakeNumbers, type MarkSeries, type OwnField, type PartKind } from "../api/parts";
import { useEdit } from "../api/queries";
import { Note } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

const FIELD_KINDS: readonly OwnField["kind"][] = ["text", "number", "yes/no", "choice"];

const whole = async (text: string) => {
  if (!/^\d+$/.test(text.trim())) throw new Error(texts.isNoWholeNumber(text));
  return String(Number(text));
};
const prefix = async (text: string) => {
  if (/\d$/.test(text.trim())) throw new Error(texts.isNoPrefix(text));
  return text.trim();
};
const named = async (text: string) => {
  if (!text.trim()) throw new Error(texts.isNoName);
  return text.trim();
};
const listed = (text: string) => [...new Set(text.split(",").map((own) => own.trim()))].filter(Boolean);

function Fields({ job }: { job: Job }) {
  const edit = useEdit(job.id);
  const [fields, wish] = useLatest<readonly OwnField[]>(job.id, job.document.own_fields);
  const set = (next: readonly OwnField[]) => {
    wish(next);
    edit.mutate({ kind: "set_own_fields", fields: [...next] });
  };
  const change = (at: number, own: Partial<OwnField>) => set(fields.map((field, n) => (n === at ? { ...field, ...own } : field)));
  const add = () => {
    let n = fields.length + 1;
    while (fields.some((field) => field.name === `Field ${n}`)) n += 1;
    set([...fields, { name: `Field ${n}`, kind: "text", choices: [], compared: false }]);
  };
  return (
    <section>
      <h3>{texts.ownFields}</h3>
      <ul className="own-fields">
        {fields.map((field, n) => (
          <li key={n}>
            <TypedField label={texts.fieldName(n + 1)} value={field.name} read={named} onChange={(name) => change(n, { name })} />
            <select
              aria-label={texts.fieldKind(n + 1)}
              value={field.kind}
              onChange={({ target }) => {
                const kind = target.value as OwnField["kind"];
                change(n, { kind, choices: kind === "choice" ? (field.choices.length ? field.choices : ["A", "B"]) : [] });
              }}
            >
              {FIELD_KINDS.map((kind) => (
                <option key={kind}>{kind}</option>
              ))}
            </select>
            <Checkbox aria-label={texts.fieldCompared(n + 1)} checked={field.compared} onChange={({ target }) => change(n, { compared: target.checked })}>
              {texts.compared}
            </Checkbox>
            <span className="layer-acts">
              <button type="button" onClick={() => set(fields.filter((_, other) => other !== n))}>
                {texts.remove}
              </button>
            </span>
            {field.kind === "choice" && (
              <TypedField
                className="choices"
                label={texts.fieldChoices(n + 1)}
                value={field.choices.join(", ")}
                read={async (text) => listed(text).join(", ")}
                onChange={(text) => change(n, { choices: listed(text) })}
                suffix={texts.choicesPlaceholder}
              />
            )}
          </li>
        ))}
      </ul>
      <span className="layer-acts">
        <button type="button" onClick={add}>
          {texts.addAField}
        </button>
      </span>
    </section>
  );
}

function Series({ job }: { job: Job }) {
  const edit = useEdit(job.id);
  const [series, wish] = useLatest<readonly MarkSeries[]>(job.id, job.document.series);
  const set = (next: readonly MarkSeries[]) => {
    wish(next);
    edit.mutate({ kind: "set_series", series: [...next] });
  };
  const change = (at: number, own: Partial<MarkSeries>) => set(series.map((row, n) => (n === at ? { ...row, ...own } : row)));
  /** A kind is in one series: put into one, it leaves the other; a series without a kind goes. */
  const move = (kind: PartKind, to: number) =>
    set(
      series
        .map((row, n) => ({ ...row, kinds: n === to ? [...row.kinds.filter((own) => own !== kind), kind] : row.kinds.filter((own) => own !== kind) }))
        .filter((row) => row.kinds.length),
    );
  const add = () => {
    const crowded = series.findIndex((row) => row.kinds.length > 1);
    const kind = series[crowded]?.kinds.at(-1);
    if (!kind) return;
    const letters = [..."CDEFGHIJKLMNOPQRTUVWXYZ"].find((letter) => !series.some((row) => row.prefix === letter)) ?? "X-";
    const rest = series.map((row, n) => (n === crowded ? { ...row, kinds: row.kinds.filter((own) => own !== kind) } : row));
    set([...rest, { kinds: [kind], prefix: letters, start: 1, step: 1, digits: 3 }]);
  };
  return (
    <section>
      <h3>{texts.series}</h3>
      <table className="mark-series">
        <thead>
          <tr>
            <th>{texts.prefix}</th>
            <th>{texts.start}</th>
            <th>{texts.step}</th>
            <th>{texts.digits}</th>
            <th>{texts.kind}</th>
          </tr>
        </thead>
        <tbody>
          {series.map((row, n) => (
            <tr key={n}>
              <td>
                <TypedField label={texts.prefixOf(n + 1)} value={row.prefix} read={prefix} onChange={(own) => change(n, { prefix: own })} />
              </td>
              {(["start", "step", "digits"] as const).map((name) => (
                <td key={name}>
                  <TypedField
                    label={{ start: texts.startOf, step: texts.stepOf, digits: texts.digitsOf }[name](n + 1)}
                    value={String(row[name])}
                    read={whole}
                    onChange={(text) => change(n, { [name]: Number(text) })}
                  />
                </td>
              ))}
              <td className="chips" role="group" aria-label={texts.kindsOf(n + 1)}>
                {KINDS.map((kind) => (
                  <button key={kind} type="button" aria-pressed={row.kinds.includes(kind)} onClick={() => !row.kinds.includes(kind) && move(kind, n)}>
                    {kind}
                  </button>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {series.some((row) => row.kinds.length > 1) && (
        <span className="layer-acts">
          <button type="button" onClick={add}>
            {texts.addASeries}
          </button>
        </span>
      )}
    </section>
  );
}

/** Part numbers that stand in names: what a pattern finds, and the taking of it out of them. */
function Numbers({ job }: { job: Job }) {
  const [pattern, setPattern] = useState("");
  const { data, error } = useNumbersInNames(job, pattern);
  const take = useTakeNumbers(job.id);
  const { message } = App.useApp();
  const found = pattern && data ? Object.entries(data.parts) : [];
  return (
    <section>
      <h3>{texts.numbersInNames}</h3>
      <p className="soft">{texts.numbersHelp}</p>
      <TypedField label={texts.numberPattern} value={pattern} read={named} onChange={setPattern} placeholder={texts.numberPatternPlaceholder} />
      {error && <Note tone="error" title={said(error)} />}
      {pattern && data && <p>{texts.numbersFound(found.length)}</p>}
      {found.length > 0 && (
        <>
          <ul className="new-marks">
            {found.slice(0, 6).map(([key, { number, name }]) => (
              <li key={key}>
                <b>{number}</b> {name ?? key}
              </li>
            ))}
          </ul>
          <span className="layer-acts">
            <button
              type="button"
              disabled={take.isPending}
              onClick={() => take.mutate(pattern, { onSuccess: ({ parts }) => (setPattern(""), void message.info(texts.takenOut(parts))) })}
            >
              {texts.takeThemOut}
            </button>
          </span>
        </>
      )}
    </section>
  );
}

/** The house's own fields of parts, and the series that marks are given from. */
export function FieldsDialog({ job, close }: { job: Job; close: () => void }) {
  return (
    <Modal open onCancel={close} footer={null} title={texts.fieldsAndSeries} width={860} style={{ top: 24 }}>
      <div className="parts-choices">
        <Fields job={job} />
        <Series job={job} />
        <Numbers job={job} />
      </div>
    </Modal>
  );
}

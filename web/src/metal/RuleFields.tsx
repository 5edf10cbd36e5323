import { useRef } from "react";
import { exampleTable, readTable, writeTable, type Choices, type Rule } from "../api/metal";
import { useTell } from "../api/tell";
import { length } from "../views/typing";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

const WAYS: readonly (readonly [Rule["way"], string])[] = [
  ["k-factor", texts.kFactor],
  ["din6935", texts.din6935],
  ["table", texts.table],
  ["allowance", texts.allowance],
  ["deduction", texts.deduction],
];
const FIRST: Readonly<Record<Rule["way"], number>> = { "k-factor": 0.44, din6935: 0, table: 0, allowance: 4, deduction: 3 };

const k = async (text: string) => {
  const value = Number(text.replace(",", "."));
  if (!text.trim() || !(value >= 0 && value <= 1)) throw new Error(texts.isNoK(text));
  return String(value);
};

/** By which rule bends are developed, which side is up, and where a closed sheet is slit. */
export function RuleFields({
  choices,
  change,
  bases,
}: {
  choices: Choices;
  change: (choices: Choices) => void;
  bases: readonly (readonly [number, number])[];
}) {
  const { rule } = choices;
  const file = useRef<HTMLInputElement>(null);
  const tell = useTell();
  const set = (next: Rule) => change({ ...choices, rule: next });
  const choose = (way: Rule["way"]) => {
    if (way === "table" && !rule.rows.length) void exampleTable().then(set, tell);
    else set({ ...rule, way, value: FIRST[way] });
  };
  return (
    <>
      <Fact name={texts.bendRule}>
        <select aria-label={texts.bendRule} value={rule.way} onChange={(event) => choose(event.target.value as Rule["way"])}>
          {WAYS.map(([way, name]) => (
            <option key={way} value={way}>
              {name}
            </option>
          ))}
        </select>
      </Fact>
      {rule.way === "k-factor" && (
        <Fact name={texts.kFactor}>
          <TypedField label={texts.kFactor} value={String(rule.value)} read={k} onChange={(text) => set({ ...rule, value: Number(text) })} />
        </Fact>
      )}
      {(rule.way === "allowance" || rule.way === "deduction") && (
        <Fact name={texts.value}>
          <TypedField
            label={texts.value}
            value={String(rule.value)}
            length
            read={length}
            onChange={(text) => set({ ...rule, value: Number(text) })}
            suffix={texts.mm}
          />
        </Fact>
      )}
      {rule.way === "table" && (
        <Fact name={rule.name || texts.table}>
          <span className="layer-acts">
            {texts.rows(rule.rows.length)}
            <button type="button" onClick={() => file.current?.click()}>
              {texts.fromAFile}
            </button>
            <button type="button" onClick={() => void writeTable(rule).catch(tell)}>
              {texts.asAFile}
            </button>
          </span>
          <input
            ref={file}
            type="file"
            hidden
            aria-label={texts.table}
            accept=".csv,text/csv"
            onChange={(event) => {
              const chosen = event.target.files?.[0];
              event.target.value = "";
              if (chosen) void readTable(chosen).then(set, tell);
            }}
          />
        </Fact>
      )}
      <Fact name={texts.side}>
        <select aria-label={texts.side} value={choices.side} onChange={(event) => change({ ...choices, side: event.target.value as Choices["side"] })}>
          <option value="a">{texts.sideA}</option>
          <option value="b">{texts.sideB}</option>
        </select>
      </Fact>
      <Fact name={texts.turn}>
        <select aria-label={texts.turn} value={choices.turn} onChange={(event) => change({ ...choices, turn: Number(event.target.value) })}>
          {[0, 90, 180, 270].map((turn) => (
            <option key={turn} value={turn}>
              {turn}
              {texts.degrees}
            </option>
          ))}
        </select>
      </Fact>
      {(bases.length > 1 || (choices.base !== null && choices.base !== undefined)) && (
        <Fact name={texts.base}>
          <select
            aria-label={texts.base}
            value={choices.base ?? ""}
            onChange={({ target }) => change({ ...choices, base: target.value ? Number(target.value) : null })}
          >
            <option value="">{texts.theLargest}</option>
            {bases.map(([face, area]) => (
              <option key={face} value={face}>
                {texts.faceOf(Number((area / 100).toPrecision(4)))}
              </option>
            ))}
          </select>
        </Fact>
      )}
      {choices.slit && (
        <Fact name={texts.slitAt}>
          <span className="layer-acts">
            {choices.slit.map((v) => Number(v.toFixed(1))).join(", ")}
            <button type="button" onClick={() => change({ ...choices, slit: null })}>
              {texts.noSlit}
            </button>
          </span>
        </Fact>
      )}
    </>
  );
}

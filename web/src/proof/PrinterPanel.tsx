import { Segmented } from "antd";
import type { Printer, usePrinted } from "../api/looks";
import { readFormat, readLength } from "../api/queries";
import { mm } from "../paper/geometry";
import { Fact, Note, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { usePrinter } from "./printer";
import * as texts from "./texts";

const SIDES = ["left", "bottom", "right", "top"] as const;
const inWords = (cut: Record<string, number>) =>
  SIDES.filter((side) => cut[side])
    .map((side) => texts.mmAtThe(mm(cut[side] as number, 2), side))
    .join(", ");

type State = ReturnType<typeof usePrinted>["data"];

/** Paper, margins and habit of the stand-in printer, and the scale that the sheet really comes out at. */
export function PrinterPanel({ state, problem }: { state: State; problem: string }) {
  const { printer, set } = usePrinter();
  const out = state?.printed;
  return (
    <>
      <Fact name={texts.paper}>
        <TypedField
          label={texts.paperOfThePrinter}
          value={`${mm(printer.width, 2)} × ${mm(printer.height, 2)} mm`}
          read={async (text) => {
            const found = await readFormat(text.replace(/\s*×\s*/, "x").replace(/\s+/g, ""));
            return texts.mm3(mm(found.width, 2), mm(found.height, 2));
          }}
          onChange={(text) => {
            const [width = 210, height = 297] = text.split(/[× ]+/).map(Number);
            set({ width, height });
          }}
        />
      </Fact>
      <Fact name={texts.margins}>
        <TypedField
          label={texts.marginsOfThePrinter}
          value={new Set(printer.margins).size === 1 ? `${mm(printer.margins[0], 2)} mm` : printer.margins.map((side) => mm(side, 2)).join(", ")}
          read={async (text) => {
            const sides = await Promise.all(
              text
                .replace(/mm/g, "")
                .split(",")
                .map(async (part) => (await readLength(part.trim())).mm),
            );
            if (sides.length !== 1 && sides.length !== 4) throw new Error(texts.writeOneMarginForAll);
            return sides.length === 1 ? texts.mm4(mm(sides[0] as number, 2)) : sides.map((side) => mm(side, 2)).join(", ");
          }}
          onChange={(text) => {
            const sides = text.replace(/mm/g, "").split(",").map(Number);
            const [left = 5, bottom = left, right = left, top = left] = sides;
            set({ margins: [left, bottom, right, top] });
          }}
        />
      </Fact>
      <Fact name={texts.scaling}>
        <Segmented
          size="small"
          aria-label={texts.scaling}
          value={printer.habit}
          options={[
            { value: "reduce", label: texts.reduceToFit },
            { value: "full size", label: texts.none },
          ]}
          onChange={(habit) => set({ habit: habit as Printer["habit"] })}
        />
      </Fact>
      {problem && <Note tone="error" title={problem} />}
      {!out && !problem && <p className="soft">{texts.printing}</p>}
      {out && (
        <Section title={texts.result}>
          <div aria-label={texts.printed}>
            <Fact name={texts.printedAt}>{mm((out.measured ?? out.factor) * 100, 4)} %</Fact>
            {out.views.map((view) => (
              <Fact key={view.name} name={view.name}>
                {view.ratio} {texts.comesOutAt} <strong>{view.true_ratio}</strong>
                {inWords(view.cut) && (
                  <span className="over small">
                    {" "}
                    {texts.cutOff} {inWords(view.cut)}
                  </span>
                )}
              </Fact>
            ))}
          </div>
          {Math.abs((out.measured ?? out.factor) - 1) > 1e-6 ? (
            <Note tone="error" title={texts.notToScaleDoNot}>
              {texts.printAt100OrOn}
            </Note>
          ) : (
            <Note tone="info" title={texts.toScale} />
          )}
          {inWords(out.lost) ? (
            <Note tone="warning" title={texts.ofTheDrawingIsCut(inWords(out.lost))} />
          ) : inWords(out.cut) ? (
            <Note tone="info" title={texts.onlyEmptyPaperIsCut(inWords(out.cut))} />
          ) : null}
        </Section>
      )}
    </>
  );
}

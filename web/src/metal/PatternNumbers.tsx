import type { Pattern } from "../api/metal";
import { Fact, Note } from "../ticket/Ticket";
import * as texts from "./texts";

const rounded = new Intl.NumberFormat("en", { maximumFractionDigits: 3, useGrouping: false });
const few = new Intl.NumberFormat("en", { maximumSignificantDigits: 5, useGrouping: false });

/** What is known of a flat pattern. */
export function PatternNumbers({ pattern }: { pattern: Pattern }) {
  const { facts } = pattern;
  return (
    <>
      <Fact name={texts.flat}>
        <span aria-label={texts.size}>
          {rounded.format(facts.width)} × {rounded.format(facts.height)} {texts.mm}
        </span>
      </Fact>
      {facts.smallest[0] * facts.smallest[1] < facts.width * facts.height * 0.999 && (
        <Fact name={texts.smallest}>
          {rounded.format(facts.smallest[0])} × {rounded.format(facts.smallest[1])} {texts.mm}
        </Fact>
      )}
      {facts.rule && <Fact name={texts.byTheRule}>{facts.rule}</Fact>}
      <Fact name={texts.thickness}>
        {rounded.format(facts.thickness)} {texts.mm}
      </Fact>
      <Fact name={texts.area}>{texts.squareMm(few.format(facts.area / 100))}</Fact>
      {facts.mass !== null && facts.mass !== undefined && <Fact name={texts.mass}>{texts.grams(few.format(facts.mass))}</Fact>}
      <Fact name={texts.cutting}>{texts.pierces(few.format(facts.cut_length), facts.pierces)}</Fact>
      <Fact name={texts.provedBy}>{texts.within(few.format(Number((facts.refolded * 1000).toFixed(3))))}</Fact>
      {facts.features.length > 0 && (
        <Fact name={texts.features}>{[...new Set(facts.features.map((own) => `${own.kind} ${texts.onSide(own.side)}`))].join(", ")}</Fact>
      )}
    </>
  );
}

/** What is warned of, and what is to be told of a pattern. */
export function PatternNotes({ pattern }: { pattern: Pattern }) {
  const { warnings, notes } = pattern.facts;
  return (
    <>
      {warnings.map((line) => (
        <Note key={line} tone="warning" title={line} />
      ))}
      {notes.map((line) => (
        <Note key={line} tone="info" title={line} />
      ))}
    </>
  );
}

import type { ReactNode } from "react";
import type { Schemas } from "../api/client";
import { Note, Section } from "../ticket/Ticket";
import * as texts from "./texts";

type Facts = Schemas["DrawingFacts"];

/** Which fonts the file asks for, and what draws them. */
export function Fonts({ facts }: { facts: Facts }) {
  if (!facts.fonts.length) return null;
  return (
    <Section title={texts.fonts}>
      <ul className="rows fonts">
        {facts.fonts.map((font) => (
          <li key={font.asked}>
            <span className={font.replaced ? "over" : ""}>{font.replaced ? texts.isMissing(font.asked, font.used) : `${font.asked}: ${font.used}`}</span>
            <em>
              {font.texts === 1 ? texts.n1Text : texts.texts(font.texts)}
              {font.replaced ? texts.on(font.layers.slice(0, 3).join(", "), font.layers.length > 3 ? " …" : "") : ""}
            </em>
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** What could not be brought in, or was mended; of a PDF's pages what their strokes cannot carry stands apart. */
export function Lost({ facts }: { facts: Facts }) {
  const beyond = facts.kind === "pdf" ? facts.lost.filter((line) => /^\d+ × /.test(line)) : [];
  const lost = facts.lost.filter((line) => !beyond.includes(line));
  return (
    <>
      {lost.length > 0 && <Lines tone="warning" title={lost.length === 1 ? texts.n1ItemWasNotRead : texts.itemsWereNotReadExactly(lost.length)} lines={lost} />}
      {beyond.length > 0 && (
        <Lines tone="info" title={texts.notEverythingCanBeWritten} lines={beyond}>
          {texts.aPagePlacedAsIt}
        </Lines>
      )}
    </>
  );
}

function Lines({ tone, title, lines, children }: { tone: "warning" | "info"; title: string; lines: readonly string[]; children?: ReactNode }) {
  return (
    <Note tone={tone} title={title}>
      {children && <p className="small">{children}</p>}
      <ul className="lost">
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </Note>
  );
}

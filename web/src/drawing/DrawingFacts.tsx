import type { Schemas } from "../api/client";
import { Note, Section } from "../ticket/Ticket";

type Facts = Schemas["DrawingFacts"];

/** Which fonts the file asks for, and what draws them. */
export function Fonts({ facts }: { facts: Facts }) {
  if (!facts.fonts.length) return null;
  return (
    <Section title="Fonts">
      <ul className="rows fonts">
        {facts.fonts.map((font) => (
          <li key={font.asked}>
            <span className={font.replaced ? "over" : ""}>{font.replaced ? `${font.asked} is not here: ${font.used}` : `${font.asked}: ${font.used}`}</span>
            <em>
              {font.texts === 1 ? "1 text" : `${font.texts} texts`}
              {font.replaced ? `, on ${font.layers.slice(0, 3).join(", ")}${font.layers.length > 3 ? " …" : ""}` : ""}
            </em>
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** What could not be brought in, or was mended. */
export function Lost({ facts }: { facts: Facts }) {
  if (!facts.lost.length) return null;
  const count = facts.lost.length;
  const title = facts.kind === "pdf" ? "Its strokes cannot carry all of it" : count === 1 ? "One thing did not come as it was" : `${count} things did not come as they were`;
  return (
    <Note tone={facts.kind === "pdf" ? "info" : "warning"} title={title}>
      {facts.kind === "pdf" && <p className="small">A page placed as it is keeps these; a cutter, or pens of your own, take strokes.</p>}
      <ul className="lost">
        {facts.lost.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </Note>
  );
}

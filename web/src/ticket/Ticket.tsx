import { createContext, useContext, type ReactNode } from "react";
import * as texts from "./texts";

/** Of what a ticket is about: its state as a badge, and where it is closed to changes, why, and what opens it. */
export const Standing = createContext<{ badge: ReactNode; closed: ReactNode } | null>(null);

/** The card beside the desk: what is selected, its facts, and what would go wrong. */
export function Ticket({ title, under, children }: { title: ReactNode; under?: ReactNode; children: ReactNode }) {
  const standing = useContext(Standing);
  return (
    <aside className="ticket" aria-label={texts.ticket}>
      <header>
        <h2>{title}</h2>
        {under && <p className="soft">{under}</p>}
        {standing?.badge}
      </header>
      <div className="tear" aria-hidden />
      {standing?.closed}
      <fieldset className="facts" disabled={!!standing?.closed}>
        {children}
      </fieldset>
    </aside>
  );
}

export function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="fact">
      <span className="soft">{name}</span>
      <span className="value">{children}</span>
    </div>
  );
}

export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section>
      <h3>{title}</h3>
      {children}
    </section>
  );
}

/** What would go wrong, with the figure and a way to mend it. */
export function Note({ tone, title, children }: { tone: "warning" | "error" | "info"; title: string; children?: ReactNode }) {
  return (
    <div className={`note ${tone}`} role={tone === "info" ? "note" : "alert"}>
      <strong>{title}</strong>
      {children && <div>{children}</div>}
    </div>
  );
}

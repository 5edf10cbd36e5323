import type { ReactNode } from "react";
import { Link, NavLink } from "react-router";
import * as texts from "./texts";

/** The head of a register, and the way to the others. */
export function RegisterHead({ title, under, children }: { title: string; under: string; children: ReactNode }) {
  return (
    <header>
      <Link to="/" className="home" aria-label={texts.allJobs}>
        <img src="/mark.svg" alt="" width={26} height={26} />
      </Link>
      <div>
        <h1>{title}</h1>
        <p className="soft">{under}</p>
      </div>
      <nav aria-label={texts.registers}>
        <NavLink to="/drawings">{texts.drawings}</NavLink>
        <NavLink to="/register">{texts.issues}</NavLink>
      </nav>
      <span className="spring" />
      {children}
    </header>
  );
}

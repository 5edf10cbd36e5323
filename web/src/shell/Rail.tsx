import { NavLink } from "react-router";
import type { Job } from "../api/client";
import type { Stop } from "./stop";
import * as texts from "./texts";

function At({ stop, number, job, sheet }: { stop: Stop; number: number; job: Job; sheet: string | undefined }) {
  const { state, tone } = stop.useState(job, sheet);
  return (
    <NavLink
      to={`/jobs/${job.id}/${stop.path}${stop.onSheet && sheet ? `/${sheet}` : ""}`}
      className={({ isActive }) => `stop ${tone} ${isActive ? "here" : ""}`}
    >
      <span className="mark">{number}</span>
      <span className="name">{stop.name}</span>
      <span className="state">{state}</span>
    </NavLink>
  );
}

/** The stops in the order of the work, each with its state. */
export function Rail({ stops, job, sheet }: { stops: readonly Stop[]; job: Job; sheet: string | undefined }) {
  return (
    <nav className="rail" aria-label={texts.stops}>
      {stops.map((stop, index) => (
        <At key={stop.path} stop={stop} number={index + 1} job={job} sheet={sheet} />
      ))}
    </nav>
  );
}

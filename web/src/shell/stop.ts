import type { ComponentType } from "react";
import type { Job } from "../api/client";

/** How far the work at a stop is, in few words, and whether something is wrong. */
export interface StopState {
  state: string;
  tone: "plain" | "warn";
}

/** A stop of the path: its feature says what it is called, what is shown there, and how far it is. */
export interface Stop {
  path: string;
  name: string;
  /** The page of the guide that is about it. */
  guide: string;
  /** Whether a sheet is open there, which goes along from stop to stop. */
  onSheet: boolean;
  page: ComponentType;
  useState: (job: Job, sheet: string | undefined) => StopState;
}

/** So many of something, in words. */
export const count = (n: number, word: string) => (n === 1 ? `1 ${word}` : `${n} ${word}s`);

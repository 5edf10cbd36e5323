import type { Release } from "../api/release";

/** How many files a release has, and how many of them have ended. */
export const total = (release: Release) => Object.values(release.counts).reduce((sum, count) => sum + count, 0);
export const ended = (release: Release) => total(release) - (release.counts.waiting ?? 0) - (release.counts.working ?? 0);

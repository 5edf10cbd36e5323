/** A moment as it is shown everywhere: 2 Dec 2026, 14:05. */
export const dayOf = (moment: string) => new Date(moment).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });

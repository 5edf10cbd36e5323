/** What the rail says of this stop; apart from the stop's own words, which come with it. */
export const sourceStop = "Source";
export const readingSo = (count: number) => `reading ${count}`;
export const refused = (count: number) => `${count} refused`;
export const noneYet = "none yet";

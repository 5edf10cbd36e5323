/** What the rail says of this stop; apart from the stop's own words, which come with it. */
export const pensStop = "Pens";

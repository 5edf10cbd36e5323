/** What the rail says of this stop; apart from the stop's own words, which come with it. */
export const proofStop = "Proof";
export const notMadeYet = "not made";
export const failing = (count: number) => (count === 1 ? "1 fails" : `${count} fail`);
export const passes = "passes";

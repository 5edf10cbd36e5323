/** What the rail says of this stop; apart from the stop's own words, which come with it. */
export const issueStop = "Issue";
export const notYet = "not yet";
export const issuing = (share: number) => `issuing ${share} %`;
export const failed = "failed";
export const revisionSo = (revision: string) => `revision ${revision}`;

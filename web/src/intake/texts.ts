/** What the interface says here, to be read through in one place. */
export const revisionOfThisSource = (count: number) => `Revision ${count} of this source.`;
export const replaceWithANewerRevision = "Replace with a newer revision";
export const number = "Number";
export const revision = "revision";

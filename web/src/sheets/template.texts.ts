/** What the dialog of templates says, fetched with it. */
export const makeTheSheet = "Make the sheet";
export const ofPart = "Of the part";
export const choosePart = "mark or name";
export const noPartsYet = "No parts yet: bring a model in on the Source stop.";

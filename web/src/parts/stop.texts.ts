export const partsStop = "Parts";
export const noMarks = "no marks";

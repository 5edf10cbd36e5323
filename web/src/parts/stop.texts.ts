export const partsStop = "Parts";
export const noModel = "no model";
export const toMark = (count: number) => (count === 1 ? "1 without mark" : `${count} without mark`);

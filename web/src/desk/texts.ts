/** What the interface says here, to be read through in one place. */
export const area = "Area";
export const shiftTheDrawing = "Shift the drawing";
export const projectAView = "Project a view";
export const overallSizes = "Overall sizes";
export const components = "Components";
export const ctrlCCtrlVPastes = "Ctrl+C; Ctrl+V pastes it, on any sheet of the job";
export const copy = "Copy";
export const dimension2 = (text: string) => `Dimension ${text}`;
export const balloon = (item: number) => `Balloon ${item}`;
export const wordsOfTheNote = "Words of the note";
export const doubleClickToWriteIn = "double click to write in it, drag to move it";
export const movedByToXY = (mm: string, mm2: string, mm3: string, mm4: string) => `moved by ${mm}, ${mm2} to x ${mm3}, y ${mm4}`;
export const removingHiddenLines = "Removing hidden lines …";
export const mm3 = (mm: string, mm2: string) => `${mm} × ${mm2} mm`;
export const mm4 = (width: string, height: string) => `${width} × ${height} mm`;

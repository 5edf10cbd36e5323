/** What can be done with the file at the proof, each in a word. */
export const NAMES = { checks: "Checks", measure: "Measure", layers: "Layers", find: "Find", compare: "Compare", printer: "Print", picture: "Picture", solid: "3D" } as const;
export type Tool = keyof typeof NAMES;
export const TOOLS: Record<Tool, string> = {
  checks: "Measured in the file",
  measure: "Measure in the file",
  layers: "Layers of the file",
  find: "Find in the file",
  compare: "Compare with the last issue",
  printer: "Print test",
  picture: "As a picture",
  solid: "3D read from the PDF",
};

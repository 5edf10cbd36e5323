import * as texts from "./texts";
/** What can be done with the file at the proof, each in a word. */
export const NAMES = {
  checks: texts.checks,
  measure: texts.measure,
  layers: texts.layers,
  find: texts.find,
  compare: texts.compare,
  printer: texts.print,
  picture: texts.picture,
  solid: "3D",
  cutter: texts.cut,
} as const;
export type Tool = keyof typeof NAMES;
export const TOOLS: Record<Tool, string> = {
  checks: texts.measuredInTheFile,
  measure: texts.measureInTheFile,
  layers: texts.layersOfTheFile,
  find: texts.findInTheFile,
  compare: texts.compareWithTheLastIssue,
  printer: texts.printTest,
  picture: texts.asAPicture,
  solid: texts.n3dReadFromThePdf,
  cutter: texts.cuttingTest,
};

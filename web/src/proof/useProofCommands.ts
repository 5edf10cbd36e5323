import type { Sheet } from "../api/client";
import { useCommands } from "../common/commands";
import * as texts from "./texts";
import type { Tool } from "./tools";

interface Doings {
  sheet: Sheet;
  /** Whether the file is made. */
  ready: boolean;
  download: () => void;
  choose: (tool: Tool) => void;
  make: () => void;
  /** One step back: from a tool to the checks, from them to the sheet. */
  back: () => void;
}

/** What can be done at the proof, by key and by the palette. */
export function useProofCommands({ sheet, ready, download, choose, make, back }: Doings) {
  useCommands("proof", [
    { id: "back", title: texts.oneStepBack, key: "Escape", run: back },
    ...(ready
      ? [
          { id: "download", title: texts.downloadThePdf, key: "D", run: download },
          { id: "tool-measure", title: texts.measureInTheFile, key: "M", run: () => choose("measure") },
          { id: "tool-find", title: texts.findWordsInTheFile, key: "W", run: () => choose("find") },
          { id: "tool-layers", title: texts.switchTheFileSLayers, key: "L", run: () => choose("layers") },
          { id: "tool-compare", title: texts.compareWithTheLastIssue, key: "C", run: () => choose("compare") },
          { id: "tool-printer", title: texts.printTest, key: "I", run: () => choose("printer") },
          { id: "tool-picture", title: texts.saveTheSheetAsA, key: "X", run: () => choose("picture") },
          ...(sheet.annotations_3d.length ? [{ id: "tool-solid", title: texts.turnCutAndMeasureThe, key: "T", run: () => choose("solid") }] : []),
          ...(sheet.cutting ? [{ id: "tool-cutter", title: texts.cuttingTest, key: "T", run: () => choose("cutter") }] : []),
          { id: "tool-checks", title: texts.showTheChecks, key: "H", run: () => choose("checks") },
        ]
      : [{ id: "make", title: texts.makeTheProofOf(sheet.name), key: "P", run: make }]),
  ]);
}

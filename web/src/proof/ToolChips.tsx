import type { Sheet } from "../api/client";
import { NAMES, type Tool } from "./tools";
import * as texts from "./texts";

/** The tools of the proof to choose from. */
export function ToolChips({ sheet, tool, onChoose }: { sheet: Sheet; tool: Tool; onChoose: (tool: Tool) => void }) {
  return (
    <div className="chips tools" role="tablist" aria-label={texts.toolsOfTheProof}>
      {(Object.keys(NAMES) as Tool[])
        .filter((name) => name !== "solid" || sheet.annotations_3d.length)
        .filter((name) => name !== "cutter" || sheet.cutting)
        .map((name) => (
          <button key={name} type="button" role="tab" aria-selected={tool === name} onClick={() => onChoose(name)}>
            {NAMES[name]}
          </button>
        ))}
    </div>
  );
}

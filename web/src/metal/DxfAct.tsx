import { useState } from "react";
import { useFlatDxf, type Choices } from "../api/metal";
import { RecipeChoice } from "../recipes/RecipeChoice";
import * as texts from "./texts";

/** A flat pattern as DXF: by which recipe, and of which side. */
export function DxfAct({ source, component, choices, sideB }: { source: string; component: string; choices: Choices; sideB: boolean }) {
  const [recipe, setRecipe] = useState("");
  const write = useFlatDxf(source);
  const act = (side_b: boolean) => write.mutate({ component, choices, recipe, side_b });
  return (
    <>
      <RecipeChoice label={texts.dxfRecipe} value={recipe} onChange={setRecipe} />
      <span className="layer-acts">
        <button type="button" disabled={write.isPending} onClick={() => act(false)}>
          {texts.writeDxf}
        </button>
        {sideB && (
          <button type="button" disabled={write.isPending} onClick={() => act(true)}>
            {texts.otherSideDxf}
          </button>
        )}
      </span>
    </>
  );
}

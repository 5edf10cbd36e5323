import { useState } from "react";
import { recipesOf, useRecipes } from "../api/output";
import { usePenFacts } from "../api/pens";
import { useOpenJob } from "../shell/JobFrame";
import { Fact } from "../ticket/Ticket";
import { RecipeEditor } from "./RecipeEditor";

/** Which recipe, and a look into it. */
export function RecipeChoice({ value, onChange, label = "Recipe" }: { value: string; onChange: (id: string) => void; label?: string }) {
  const job = useOpenJob();
  const { data: list } = useRecipes();
  const { data: facts } = usePenFacts();
  const [shown, setShown] = useState<string | null>(null);
  const all = recipesOf(list);
  const show = (id: string | null) => {
    setShown(id);
    // a copy that was just made is the one that is meant
    if (id && id !== value && shown) onChange(id);
  };
  return (
    <>
      <Fact name={label}>
        <span className="pair">
          <select aria-label={label} value={value || "shop"} onChange={(event) => onChange(event.target.value)}>
            {all.map((recipe) => (
              <option key={recipe.id} value={recipe.id}>
                {recipe.name}
                {recipe.version > 1 ? ` (${recipe.version})` : ""}
              </option>
            ))}
          </select>
          <button type="button" className="as-file" onClick={() => setShown(value || "shop")}>
            open
          </button>
        </span>
      </Fact>
      <RecipeEditor shown={shown} sets={[...job.document.pens, ...(facts?.shipped ?? [])]} show={show} />
    </>
  );
}

import { recipesOf, useRecipes } from "../api/output";
import { Fact } from "../ticket/Ticket";
import { useEditing } from "./editing";
import * as texts from "./texts";

/** Which recipe, and a look into it. */
export function RecipeChoice({
  value,
  onChange,
  label = texts.recipe,
  none,
}: {
  value: string;
  onChange: (id: string) => void;
  label?: string;
  none?: string;
}) {
  const { data: list } = useRecipes();
  const open = useEditing((state) => state.open);
  return (
    <Fact name={label}>
      <span className="pair">
        <select aria-label={label} value={value || (none ? "" : "shop")} onChange={(event) => onChange(event.target.value)}>
          {none && <option value="">{none}</option>}
          {recipesOf(list).map((recipe) => (
            <option key={recipe.id} value={recipe.id}>
              {recipe.name}
              {recipe.version > 1 ? ` (${recipe.version})` : ""}
            </option>
          ))}
        </select>
        {(value || !none) && (
          <button type="button" className="as-file" onClick={() => open(value || "shop", onChange)}>
            {texts.open}
          </button>
        )}
      </span>
    </Fact>
  );
}

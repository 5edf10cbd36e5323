import { Modal, Upload } from "antd";
import { useState } from "react";
import { recipesOf, useDropRecipe, useKeepRecipe, useReadRecipe, useRecipes, type Recipe } from "../api/output";
import { newId } from "../api/ids";
import type { PenSet } from "../api/pens";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { useEditing } from "./editing";
import { RecipeFields } from "./RecipeFields";

/** A recipe to look at and, where it is not one that ships, to change; each change is kept as its next version. */
export function RecipeEditor({ sets }: { sets: readonly PenSet[] }) {
  const { shown, adopt: taken, open, close } = useEditing();
  const { data: list } = useRecipes();
  const keep = useKeepRecipe();
  const drop = useDropRecipe();
  const read = useReadRecipe();
  const [draft, setDraft] = useState<Recipe | null>(null);
  const all = recipesOf(list);
  const kept = all.find((recipe) => recipe.id === shown);
  const recipe = draft?.id === shown ? draft : kept;
  const locked = !!list?.shipped.some((own) => own.id === shown);
  const change = (fields: Partial<Recipe>) => {
    if (!recipe) return;
    const made = { ...recipe, ...fields };
    setDraft(made);
    keep.mutate(made, { onSettled: () => setDraft(null) });
  };
  const adopt = (made: Recipe) => keep.mutate(made, { onSuccess: (own) => {
      // a copy that was just made is the one that is meant
      taken?.(own.id);
      open(own.id, taken ?? (() => undefined));
    } });
  const duplicate = () => {
    if (!recipe) return;
    const names = new Set(all.map((own) => own.name));
    let name = `${recipe.name}, copy`;
    for (let n = 2; names.has(name); n += 1) name = `${recipe.name}, copy ${n}`;
    adopt({ ...recipe, id: newId(), name, version: 1 });
  };
  return (
    <Modal open={!!recipe} onCancel={close} footer={null} width={560} title={recipe && `Recipe: ${recipe.name}`} destroyOnHidden>
      {recipe && (
        <>
          <p className="soft">{locked ? "ships with Skalto, and stays as it is" : `version ${recipe.version}, shared by all jobs`}</p>
          {!locked && (
            <Fact name="Name">
              <TypedField label="Name of the recipe" value={recipe.name} read={async (text) => text.trim() || recipe.name} onChange={(name) => change({ name })} />
            </Fact>
          )}
          <p className="layer-acts">
            <button type="button" onClick={duplicate}>
              {locked ? "Copy and edit" : "Duplicate"}
            </button>
            {!locked && (
              <button type="button" onClick={() => drop.mutate(recipe.id, { onSuccess: close })}>
                Remove
              </button>
            )}
            <a href={`/api/recipes/${recipe.id}/file.json`} download>
              Save as a file
            </a>
            <Upload accept=".json" showUploadList={false} beforeUpload={(file) => { read.mutate(file, { onSuccess: adopt }); return false; }}>
              <button type="button">Open a file</button>
            </Upload>
          </p>
          <RecipeFields key={recipe.id} recipe={recipe} sets={sets} fields={list?.fields ?? []} change={change} locked={locked} />
        </>
      )}
    </Modal>
  );
}

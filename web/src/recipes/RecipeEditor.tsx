import { Modal, Upload } from "antd";
import { useState } from "react";
import { recipesOf, useDropRecipe, useKeepRecipe, useReadRecipe, useRecipes, type Recipe } from "../api/output";
import { newId } from "../common/ids";
import type { PenSet } from "../api/pens";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { useEditing } from "./editing";
import { RecipeFields } from "./RecipeFields";
import * as texts from "./texts";

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
  const adopt = (made: Recipe) =>
    keep.mutate(made, {
      onSuccess: (own) => {
        // a copy that was just made is the one that is meant
        taken?.(own.id);
        open(own.id, taken ?? (() => undefined));
      },
    });
  const duplicate = () => {
    if (!recipe) return;
    const names = new Set(all.map((own) => own.name));
    let name = `${recipe.name}, copy`;
    for (let n = 2; names.has(name); n += 1) name = texts.copy(recipe.name, n);
    adopt({ ...recipe, id: newId(), name, version: 1 });
  };
  return (
    <Modal open={!!recipe} onCancel={close} footer={null} width={560} title={recipe && `Recipe: ${recipe.name}`} destroyOnHidden>
      {recipe && (
        <div className={locked ? "locked-recipe" : undefined}>
          <p className="soft">{locked ? texts.shipsWithSkaltoAndStays : texts.versionSharedByAllJobs(recipe.version)}</p>
          {!locked && (
            <Fact name={texts.name}>
              <TypedField
                label={texts.nameOfTheRecipe}
                value={recipe.name}
                read={async (text) => text.trim() || recipe.name}
                onChange={(name) => change({ name })}
              />
            </Fact>
          )}
          <p className="layer-acts">
            <button type="button" onClick={duplicate}>
              {locked ? texts.copyAndEdit : texts.duplicate}
            </button>
            {!locked && (
              <button type="button" onClick={() => drop.mutate(recipe.id, { onSuccess: close })}>
                {texts.remove}
              </button>
            )}
            <a href={`/api/recipes/${recipe.id}/file.json`} download>
              {texts.saveAsAFile}
            </a>
            <Upload
              accept=".json"
              showUploadList={false}
              beforeUpload={(file) => {
                read.mutate(file, { onSuccess: adopt });
                return false;
              }}
            >
              <button type="button">{texts.openAFile}</button>
            </Upload>
          </p>
          <RecipeFields key={recipe.id} recipe={recipe} sets={sets} fields={list?.fields ?? []} change={change} locked={locked} />
        </div>
      )}
    </Modal>
  );
}

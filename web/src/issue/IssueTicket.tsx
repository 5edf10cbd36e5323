import { Button, Checkbox, Input, Segmented, Select } from "antd";
import { useState } from "react";
import type { Job } from "../api/client";
import { recipesOf, useIssues, useRecipes, type IssueWish, type Pack, type Recipe } from "../api/output";
import { usePenFacts } from "../api/pens";
import { RecipeChoice } from "../recipes/RecipeChoice";
import { RecipeFields } from "../recipes/RecipeFields";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { IssueRow } from "./IssueRow";
import { useOpening } from "./opening";

type Wish = Omit<IssueWish, "pack">;

interface Props {
  job: Job;
  pack: Pack;
  wish: Wish;
  setWish: (wish: Wish) => void;
  keep: (fields: Partial<Pack>) => void;
  remove: () => void;
  problems: readonly string[];
  begin: () => void;
  blocked: boolean;
  busy: boolean;
}

/** What goes out, how, and what for; below it what of this pack went out before. */
export function IssueTicket({ job, pack, wish, setWish, keep, remove, problems, begin, blocked, busy }: Props) {
  const { data: list } = useRecipes();
  const { data: facts } = usePenFacts();
  const { data: issues } = useIssues({ job: job.id });
  const [choosing, setChoosing] = useState(false);
  const opening = useOpening();
  const set = (fields: Partial<Wish>) => setWish({ ...wish, ...fields });
  const recipe = recipesOf(list).find((own) => own.id === (pack.recipe || "shop"));
  const own = (issues ?? []).filter((issue) => issue.pack_id === pack.id);
  const chosen = Object.keys(wish.choices).length;
  return (
    <Ticket title="Issue" under={`${pack.name}, ${pack.sheets.length === 1 ? "1 sheet" : `${pack.sheets.length} sheets`}`}>
      <Fact name="Pack">
        <TypedField label="Name of the pack" value={pack.name} read={async (text) => text.trim() || pack.name} onChange={(name) => keep({ name })} />
      </Fact>
      <RecipeChoice value={pack.recipe} none="Each sheet's own" onChange={(id) => keep({ recipe: id })} />
      <Fact name="Files">
        <Segmented size="small" aria-label="Files" value={pack.files} options={[{ value: "one", label: "Single file" }, { value: "each", label: "One file per sheet" }]} onChange={(files) => keep({ files: files as Pack["files"] })} />
      </Fact>
      <Fact name="File name">
        <TypedField label="Pattern of file names" value={pack.pattern} read={async (text) => text.trim() || pack.pattern} onChange={(pattern) => keep({ pattern })} />
        <span className="soft small">{(list?.fields ?? []).map((field) => `{${field}}`).join(" ")}</span>
      </Fact>
      <Section title="This issue">
        <Fact name="Purpose">
          <Select size="small" variant="borderless" aria-label="Purpose" value={wish.purpose} options={(list?.purposes ?? []).map((value) => ({ value, label: value }))} onChange={(purpose) => set({ purpose })} />
        </Fact>
        <Fact name="Revision">
          <TypedField label="Revision" value={wish.revision || "the sheets' own"} read={async (text) => text.trim() || "the sheets' own"} onChange={(text) => set({ revision: text === "the sheets' own" ? "" : text })} />
        </Fact>
        <Fact name="Note">
          <Input.TextArea autoSize variant="borderless" aria-label="Note" placeholder="for the register" value={wish.note} onChange={(event) => set({ note: event.target.value })} />
        </Fact>
        <p className="layer-acts">
          <button type="button" aria-expanded={choosing} onClick={() => setChoosing(!choosing)}>
            {choosing ? "Close" : "Change for this issue only"}
          </button>
          {!!chosen && (
            <button type="button" onClick={() => set({ choices: {} })}>
              As in the recipe
            </button>
          )}
        </p>
        {choosing && recipe && (
          <>
            <RecipeFields recipe={{ ...recipe, ...(wish.choices as Partial<Recipe>) }} sets={[...job.document.pens, ...(facts?.shipped ?? [])]} fields={list?.fields ?? []} change={(fields) => set({ choices: { ...wish.choices, ...fields } })} />
            <Fact name="Password to open">
              <Input.Password size="small" variant="borderless" aria-label="Password to open" autoComplete="new-password" placeholder="no password" value={wish.open_password} onChange={(event) => set({ open_password: event.target.value })} />
            </Fact>
            <Fact name="Password to edit">
              <Input.Password size="small" variant="borderless" aria-label="Password to edit" autoComplete="new-password" placeholder="no password" value={wish.change_password} onChange={(event) => set({ change_password: event.target.value })} />
            </Fact>
          </>
        )}
        {problems.map((line) => (
          <Note key={line} tone="error" title={line} />
        ))}
        <Button type="primary" block className="wide" onClick={begin} disabled={blocked} title={problems[0]} loading={busy}>
          Issue this pack <kbd>I</kbd>
        </Button>
        <Checkbox checked={opening.opens} onChange={(event) => opening.set(event.target.checked)}>
          Open when done
        </Checkbox>
      </Section>
      <Section title="Earlier issues">
        {!own.length && <p className="soft">Not issued yet.</p>}
        <ul className="issues">
          {own.slice(0, 8).map((issue) => (
            <IssueRow key={issue.id} issue={issue} />
          ))}
        </ul>
      </Section>
      <p className="layer-acts">
        <button type="button" onClick={remove}>
          Remove this pack
        </button>
      </p>
    </Ticket>
  );
}

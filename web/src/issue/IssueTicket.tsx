import { Button, Checkbox, Input, Segmented, Select } from "antd";
import { useState } from "react";
import type { Job } from "../api/client";
import { recipesOf, useIssues, useRecipes, type IssueRequest, type Pack, type Recipe } from "../api/output";
import { usePenFacts } from "../api/pens";
import { RecipeChoice } from "../recipes/RecipeChoice";
import { RecipeFields } from "../recipes/RecipeFields";
import { Fact, Note, Section, Ticket } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { IssueRow } from "./IssueRow";
import { useOpening } from "./opening";
import * as texts from "./texts";

const FORMATS = ["PDF", "DXF", "SVG"] as const;

type Wish = Omit<IssueRequest, "pack">;

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
    <Ticket title={texts.issue} under={texts.sheets(pack.name, pack.sheets.length === 1 ? "1 sheet" : `${pack.sheets.length} sheets`)}>
      <Fact name={texts.pack}>
        <TypedField label={texts.nameOfThePack} value={pack.name} read={async (text) => text.trim() || pack.name} onChange={(name) => keep({ name })} />
      </Fact>
      <RecipeChoice value={pack.recipe} none="Each sheet's own" onChange={(id) => keep({ recipe: id })} />
      <Fact name={texts.files}>
        <Segmented
          vertical
          size="small"
          aria-label={texts.files}
          value={pack.files}
          options={[
            { value: "one", label: texts.singleFile },
            { value: "each", label: texts.oneFilePerSheet },
          ]}
          onChange={(files) => keep({ files: files as Pack["files"] })}
        />
      </Fact>
      <Fact name={texts.formats}>
        <Checkbox.Group
          value={[...pack.formats]}
          options={[...FORMATS]}
          onChange={(formats) => formats.length && keep({ formats: FORMATS.filter((own) => formats.includes(own)) })}
        />
      </Fact>
      <Fact name={texts.fileName}>
        <TypedField
          label={texts.patternOfFileNames}
          value={pack.pattern}
          read={async (text) => text.trim() || pack.pattern}
          onChange={(pattern) => keep({ pattern })}
        />
        <span className="soft small">{(list?.fields ?? []).map((field) => `{${field}}`).join(" ")}</span>
      </Fact>
      <Section title={texts.thisIssue}>
        <Fact name={texts.purpose}>
          <Select
            size="small"
            variant="borderless"
            aria-label={texts.purpose}
            value={wish.purpose}
            options={(list?.purposes ?? []).map((value) => ({ value, label: value }))}
            onChange={(purpose) => set({ purpose })}
          />
        </Fact>
        <Fact name={texts.revision2}>
          <TypedField
            label={texts.revision2}
            value={wish.revision}
            placeholder={texts.theSheetsOwn}
            read={async (text) => text.trim()}
            onChange={(revision) => set({ revision })}
          />
        </Fact>
        <Fact name={texts.note}>
          <Input.TextArea
            autoSize
            variant="borderless"
            aria-label={texts.note}
            placeholder={texts.forTheRegister}
            value={wish.note}
            onChange={(event) => set({ note: event.target.value })}
          />
        </Fact>
        <p className="layer-acts">
          <button type="button" aria-expanded={choosing} onClick={() => setChoosing(!choosing)}>
            {choosing ? texts.close : texts.changeForThisIssueOnly}
          </button>
          {!!chosen && (
            <button type="button" onClick={() => set({ choices: {} })}>
              {texts.asInTheRecipe}
            </button>
          )}
        </p>
        {choosing && recipe && (
          <>
            <RecipeFields
              recipe={{ ...recipe, ...(wish.choices as Partial<Recipe>) }}
              sets={[...job.document.pens, ...(facts?.shipped ?? [])]}
              fields={list?.fields ?? []}
              change={(fields) => set({ choices: { ...wish.choices, ...fields } })}
            />
            <Fact name={texts.passwordToOpen}>
              <Input.Password
                size="small"
                variant="borderless"
                aria-label={texts.passwordToOpen}
                autoComplete="new-password"
                placeholder={texts.noPassword}
                value={wish.open_password}
                onChange={(event) => set({ open_password: event.target.value })}
              />
            </Fact>
            <Fact name={texts.passwordToEdit}>
              <Input.Password
                size="small"
                variant="borderless"
                aria-label={texts.passwordToEdit}
                autoComplete="new-password"
                placeholder={texts.noPassword}
                value={wish.change_password}
                onChange={(event) => set({ change_password: event.target.value })}
              />
            </Fact>
          </>
        )}
        {problems.map((line) => (
          <Note key={line} tone="error" title={line} />
        ))}
        <Button type="primary" block className="wide" onClick={begin} disabled={blocked} title={problems[0]} loading={busy}>
          {texts.issueThisPack} <kbd>I</kbd>
        </Button>
        <Checkbox checked={opening.opens} onChange={(event) => opening.set(event.target.checked)}>
          {texts.openWhenDone}
        </Checkbox>
      </Section>
      <Section title={texts.earlierIssues}>
        {!own.length && <p className="soft">{texts.notIssuedYet}</p>}
        <ul className="issues">
          {own.slice(0, 8).map((issue) => (
            <IssueRow key={issue.id} issue={issue} />
          ))}
        </ul>
      </Section>
      <p className="layer-acts">
        <button type="button" onClick={remove}>
          {texts.removeThisPack}
        </button>
      </p>
    </Ticket>
  );
}

import { Button, Checkbox, Modal } from "antd";
import { useRef, useState } from "react";
import { newId } from "../common/ids";
import { recipesOf, useRecipes } from "../api/output";
import { FILE_KINDS, useDropRules, useKeepRules, useReadRules, useRules, type FileKind, type FileRule, type Rules, type Subject } from "../api/release";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

const SHEETS: readonly Subject[] = ["plate", "bent sheet", "rolled sheet"];
const PARTS: readonly Subject[] = [...SHEETS, "turned", "profile", "part", "bought", "assembly"];
/** What each kind of file is made of. */
const OF: Record<FileKind, readonly Subject[]> = {
  PDF: ["sheet", "pack"],
  "flat-pattern DXF": SHEETS,
  "profile DXF": ["plate"],
  STEP: PARTS,
  glTF: PARTS,
  HTML: PARTS,
  "3D PDF": PARTS,
  "parts list CSV": ["job"],
};
const BY_RECIPE: ReadonlySet<FileKind> = new Set(["PDF", "3D PDF", "flat-pattern DXF", "profile DXF"]);

const plain = async (text: string) => text.trim();
const filled = async (text: string) => {
  if (!text.trim()) throw new Error(texts.isEmpty);
  return text.trim();
};

function Files({ rule, at, locked, change, remove }: { rule: FileRule; at: number; locked: boolean; change: (rule: FileRule) => void; remove: () => void }) {
  const { data: list } = useRecipes();
  const set = (fields: Partial<FileRule>) => change({ ...rule, ...fields });
  const toggle = (own: Subject) => {
    const next = rule.of.includes(own) ? rule.of.filter((other) => other !== own) : [...rule.of, own];
    if (next.length) set({ of: next });
  };
  const field = (label: string, value: string, onChange: (text: string) => void, read = plain) =>
    locked ? <span>{value || "–"}</span> : <TypedField label={label} value={value} read={read} onChange={onChange} />;
  return (
    <li className="file-rule" aria-label={texts.fileNo(at)}>
      <div className="kind">
        <select
          aria-label={texts.kindOf(at)}
          disabled={locked}
          value={rule.file}
          onChange={(event) => {
            const file = event.target.value as FileKind;
            const of = rule.of.filter((own) => OF[file].includes(own));
            set({ file, of: of.length ? of : [OF[file][0]!], recipe: BY_RECIPE.has(file) ? rule.recipe : "" });
          }}
        >
          {FILE_KINDS.map((own) => (
            <option key={own}>{own}</option>
          ))}
        </select>
        {!locked && (
          <span className="layer-acts">
            <button type="button" onClick={remove}>
              {texts.remove}
            </button>
          </span>
        )}
      </div>
      <div className="chips" role="group" aria-label={texts.madeOf(at)}>
        {OF[rule.file].map((own) => (
          <button key={own} type="button" disabled={locked} aria-pressed={rule.of.includes(own)} onClick={() => toggle(own)}>
            {own}
          </button>
        ))}
      </div>
      <dl>
        <dt>{texts.folder}</dt>
        <dd>{field(texts.folderOf(at), rule.folder, (folder) => set({ folder }))}</dd>
        <dt>{texts.fileName}</dt>
        <dd>{field(texts.nameOf(at), rule.name, (name) => set({ name }), filled)}</dd>
        {BY_RECIPE.has(rule.file) && (
          <>
            <dt>{texts.recipe}</dt>
            <dd>
              <select aria-label={texts.recipeOf(at)} disabled={locked} value={rule.recipe} onChange={(event) => set({ recipe: event.target.value })}>
                <option value="">{texts.ownRecipe}</option>
                {recipesOf(list).map((recipe) => (
                  <option key={recipe.id} value={recipe.id}>
                    {recipe.name}
                  </option>
                ))}
              </select>
            </dd>
          </>
        )}
        <dt>{texts.onlyIf}</dt>
        <dd className="pair">
          {field(texts.fieldOf(at), rule.only_if?.field ?? "", (name) => set({ only_if: name ? { field: name, value: rule.only_if?.value ?? "" } : null }))}
          {rule.only_if && (
            <>
              {texts.is}
              {field(texts.valueOf(at), rule.only_if.value, (value) => set({ only_if: { field: rule.only_if!.field, value } }))}
              {!rule.only_if.value && <span className="soft">{texts.anythingButNo}</span>}
            </>
          )}
          {!rule.only_if && <span className="soft">{texts.always}</span>}
        </dd>
      </dl>
    </li>
  );
}

/** Release rules: which files are made of what, by which recipe, under which names. Those that ship are copied to be changed. */
export function RulesDialog({ rules, shipped: ships, close, choose }: { rules: Rules; shipped: boolean; close: () => void; choose: (id: string) => void }) {
  const [draft, setDraft] = useState(rules);
  const [own, setOwn] = useState(false);
  const shipped = ships && !own;
  const { data: all } = useRules();
  const keep = useKeepRules();
  const drop = useDropRules();
  const read = useReadRules();
  const file = useRef<HTMLInputElement>(null);
  const change = (fields: Partial<Rules>) => {
    const next = { ...draft, ...fields };
    setDraft(next);
    keep.mutate(next, { onError: () => setDraft(draft) });
  };
  const copy = (from: Rules) => {
    const taken = new Set(all?.map((own) => own.name.toLowerCase()));
    let name = from.name;
    for (let n = 2; taken.has(name.toLowerCase()); n += 1) name = `${from.name.slice(0, 54)} ${n}`;
    const made = { ...from, name, id: newId(), version: 1 };
    keep.mutate(made, {
      onSuccess: (kept) => {
        choose(kept.id);
        // the copy is what is meant to be edited: it is what is open now
        setDraft(kept);
        setOwn(true);
      },
    });
  };
  const at = (index: number, rule: FileRule) => change({ files: draft.files.map((own, n) => (n === index ? rule : own)) });
  return (
    <Modal open onCancel={close} footer={null} width={860} style={{ top: 24 }} title={texts.rulesTitle(draft.name)}>
      <div className="rules">
        <header>
          {shipped ? (
            <>
              <span className="soft">{texts.shipped}</span>
              <Button size="small" onClick={() => copy({ ...draft, name: texts.copyOf(draft.name) })}>
                {texts.copyAndEdit}
              </Button>
            </>
          ) : (
            <TypedField label={texts.nameOfRules} value={draft.name} read={filled} onChange={(name) => change({ name })} />
          )}
          <span className="layer-acts">
            <a href={`/api/release-rules/${draft.id}.json`} download>
              {texts.keepAsFile}
            </a>
            <button type="button" onClick={() => file.current?.click()}>
              {texts.fromAFile}
            </button>
            {!shipped && (
              <button type="button" onClick={() => drop.mutate(draft.id, { onSuccess: close })}>
                {texts.drop}
              </button>
            )}
          </span>
          <input
            ref={file}
            hidden
            type="file"
            accept=".json,application/json"
            aria-label={texts.fromAFile}
            onChange={(event) => {
              const chosen = event.target.files?.[0];
              event.target.value = "";
              if (chosen) void chosen.text().then((text) => read.mutate(text, { onSuccess: copy }));
            }}
          />
        </header>
        <ul>
          {draft.files.map((rule, n) => (
            <Files
              key={n}
              rule={rule}
              at={n + 1}
              locked={shipped}
              change={(own) => at(n, own)}
              remove={() => draft.files.length > 1 && change({ files: draft.files.filter((_, other) => other !== n) })}
            />
          ))}
        </ul>
        {!shipped && (
          <>
            <span className="layer-acts">
              <button
                type="button"
                onClick={() =>
                  change({ files: [...draft.files, { of: ["part"], file: "STEP", recipe: "", only_if: null, name: "{mark}_{name}", folder: "" }] })
                }
              >
                {texts.addFiles}
              </button>
            </span>
            <p className="soft small">{texts.properties}</p>
          </>
        )}
        <div className="pair">
          <Checkbox disabled={shipped} checked={draft.bought} onChange={(event) => change({ bought: event.target.checked })}>
            {texts.bought}
          </Checkbox>
          <span className="soft">{texts.earlier}</span>
          <select
            aria-label={texts.earlier}
            disabled={shipped}
            value={draft.earlier}
            onChange={(event) => change({ earlier: event.target.value as Rules["earlier"] })}
          >
            <option value="moved aside">{texts.movedAside}</option>
            <option value="replaced">{texts.replaced}</option>
          </select>
        </div>
      </div>
    </Modal>
  );
}

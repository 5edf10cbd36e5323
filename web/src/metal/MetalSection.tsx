import { Checkbox, Spin } from "antd";
import { Suspense, useState } from "react";
import type { Job } from "../api/client";
import { useSheetParts, type SheetPart } from "../api/metal";
import { part as later } from "../common/part";
import { Note, Section } from "../ticket/Ticket";
import "./metal.css";
import * as texts from "./texts";

const UnfoldDialog = later(async () => (await import("./UnfoldDialog")).UnfoldDialog);
const KINDS: ReadonlySet<SheetPart["kind"]> = new Set(["flat plate", "bent sheet", "rolled sheet", "plate with depth features"]);

/** Whether a part is sheet metal. */
export const isSheet = (part: SheetPart) => KINDS.has(part.kind);

const marked = (part: SheetPart) => {
  const thick = part.facts ? `${Number(part.facts.thickness.toFixed(3))} ${texts.mm}` : "";
  const bent = part.facts?.bends.length ? `, ${texts.bends(part.facts.bends.length)}` : "";
  return `${part.kind} ${thick}${bent}`;
};

/** The marks of sheet metal in the tree, by the paths of its components. */
export const marksOf = (parts: readonly SheetPart[] | null | undefined) =>
  new Map((parts ?? []).filter(isSheet).flatMap((part) => part.components.map((path) => [path, marked(part)] as const)));

interface Props {
  job: Job;
  source: string;
  chosen: readonly string[];
  wanted: boolean;
  onWanted: () => void;
  only: boolean;
  onOnly: (only: boolean) => void;
  onSelect: (path: string) => void;
}

/** The parts of a model as whoever bends and cuts sees them: what is sheet metal, to be unfolded, and why the rest is none. */
export function MetalSection({ job, source, chosen, wanted, onWanted, only, onOnly, onSelect }: Props) {
  const { data, error } = useSheetParts(source, wanted);
  const [open, setOpen] = useState<SheetPart | null>(null);
  const parts = data?.parts;
  const failed = data?.work?.state === "failed" ? data.work.error : error?.message;
  const shown = (parts ?? []).filter((part) => (chosen.length ? part.components.some((path) => chosen.includes(path)) : isSheet(part)));
  return (
    <Section title={texts.sheetMetal}>
      {!wanted && (
        <span className="layer-acts">
          <button type="button" onClick={onWanted}>
            {texts.findSheetMetal}
          </button>
        </span>
      )}
      {wanted && !parts && !failed && <Spin size="small" description={texts.lookingAtTheParts} />}
      {failed && <Note tone="error" title={failed} />}
      {parts && (
        <>
          <Checkbox checked={only} onChange={(event) => onOnly(event.target.checked)}>
            {texts.onlySheetMetal}
          </Checkbox>
          {!parts.some(isSheet) && <p className="soft">{texts.noSheetMetal}</p>}
          <ul className="metal-rows" aria-label={texts.sheetMetal}>
            {shown.map((part) => (
              <li key={part.component}>
                <button type="button" className="as-file" onClick={() => onSelect(part.component)}>
                  {part.name}
                </button>
                {(part.facts || part.place) && (
                  <button type="button" className="as-file" onClick={() => setOpen(part)}>
                    {texts.unfold}
                  </button>
                )}
                <span className="reason soft">{part.facts ? marked(part) : `${part.kind}. ${part.reason}`}</span>
              </li>
            ))}
          </ul>
        </>
      )}
      <Suspense>{open && <UnfoldDialog key={open.component} job={job} source={source} part={open} close={() => setOpen(null)} />}</Suspense>
    </Section>
  );
}

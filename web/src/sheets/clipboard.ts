import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { Edit, Job, Sheet, View } from "../api/client";
import { newId } from "../common/ids";
import { useCommands } from "../common/commands";
import * as texts from "./texts";
import * as paperTexts from "../paper/texts";

interface Copied {
  job: number;
  sheet: string;
  views: string[];
  /** How often it has been pasted on the sheet that it came from: copies do not lie on one another. */
  pasted: number;
}

/** The views that were copied last, whatever tab they are pasted in. */
export const useCopied = create<{ copied: Copied | null; put: (copied: Copied) => void }>()(
  persist((set) => ({ copied: null, put: (copied) => set({ copied }) }), { name: "skalto.copied" }),
);

const STEP = 10;

/** Copies views, and puts them down again on this sheet or another of the job: in the same place there, beside the first here. */
export function useClipboard(job: Job, sheet: Sheet, chosen: readonly View[], edit: (edit: Edit) => void, select: (id: string) => void) {
  const { copied, put } = useCopied();
  const from = copied?.job === job.id ? job.document.sheets.find((own) => own.id === copied.sheet) : undefined;
  const views = from?.views.filter((own) => copied?.views.includes(own.id)) ?? [];
  const copy = () => chosen.length && put({ job: job.id, sheet: sheet.id, views: chosen.map((own) => own.id), pasted: 0 });
  const paste = () => {
    if (!copied || !from || !views.length) return;
    const here = from.id === sheet.id;
    const step = here ? STEP * (copied.pasted + 1) : 0;
    const made = views.map((own) => ({ sheet: from.id, view: own.id, new: newId() }));
    edit({ kind: "paste_views", sheet: sheet.id, views: made, by: [step, -step] });
    if (here) put({ ...copied, pasted: copied.pasted + 1 });
    select(made[0]!.new);
  };
  const what = views.length === 1 ? texts.theView(views[0]!.name) : paperTexts.views(views.length);
  useCommands("clipboard", [
    ...(chosen.length
      ? [{ id: "copy", title: chosen.length === 1 ? texts.copyTheView(chosen[0]!.name) : texts.copyViews(chosen.length), key: "Ctrl+C", run: copy }]
      : []),
    ...(views.length ? [{ id: "paste", title: texts.pasteHere(what), key: "Ctrl+V", run: paste }] : []),
  ]);
  return { copy, paste: views.length ? paste : null, what };
}

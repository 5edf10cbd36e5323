import { Suspense, useState, type ReactNode } from "react";
import { useCommands } from "../common/commands";
import { part } from "../common/part";
import * as texts from "./texts";

const Guide = part(async () => (await import("./Guide")).Guide);

/** The guide behind “?”, opened at the page of where one is. */
export function useGuide(here: string): { guide: ReactNode; open: () => void } {
  const [at, setAt] = useState<string | null>(null);
  const open = () => setAt(here);
  useCommands("guide", [{ id: "guide", title: texts.openTheGuide, key: "?", run: open }]);
  const guide =
    at === null ? null : (
      <Suspense fallback={null}>
        <Guide at={at} go={setAt} close={() => setAt(null)} />
      </Suspense>
    );
  return { guide, open };
}

import { Suspense, type ComponentProps } from "react";
import { part } from "../common/part";
import * as texts from "./texts";

const SheetStrip = part(async () => (await import("./SheetStrip")).SheetStrip);

/** The strip of sheets, with its place held until it is there. */
export const Strip = (props: ComponentProps<typeof SheetStrip>) => (
  <Suspense
    fallback={
      <div className="strip">
        <h3>{texts.sheets}</h3>
      </div>
    }
  >
    <SheetStrip {...props} />
  </Suspense>
);

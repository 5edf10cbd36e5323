import { Suspense, type ComponentProps } from "react";
import { part } from "../common/part";

const FinishedPage = part(async () => (await import("./FinishedPage")).FinishedPage);

/** The finished page that a sheet lies on; nothing beneath another. */
export const PageBeneath = (props: ComponentProps<typeof FinishedPage>) =>
  props.sheet.onto ? (
    <Suspense>
      <FinishedPage {...props} />
    </Suspense>
  ) : null;

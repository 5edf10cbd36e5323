import { useFinishedPage } from "../api/finished";
import type { Sheet } from "../api/client";

/** The finished page that a sheet lies on, in pixels of the paper. */
export function FinishedPage({ sheet, width, height }: { sheet: Sheet; width: number; height: number }) {
  const { data } = useFinishedPage(sheet.onto);
  return data?.picture ? <image className="finished-page" href={data.picture} width={width} height={height} preserveAspectRatio="none" /> : null;
}

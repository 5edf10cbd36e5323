import { useEffect } from "react";
import type { Sheet } from "../api/client";
import { useFinishedPage } from "../api/finished";
import type { SnapLines } from "./geometry";

interface Props {
  sheet: Sheet;
  width: number;
  height: number;
  /** Told the lines on it that what is dragged snaps to. */
  onLines?: (lines: SnapLines) => void;
}

/** The finished page that a sheet lies on, in pixels of the paper. */
export function FinishedPage({ sheet, width, height, onLines }: Props) {
  const { data } = useFinishedPage(sheet.onto);
  useEffect(() => {
    if (data) onLines?.({ x: data.xs, y: data.ys });
  }, [data, onLines]);
  return data?.picture ? <image className="finished-page" href={data.picture} width={width} height={height} preserveAspectRatio="none" /> : null;
}

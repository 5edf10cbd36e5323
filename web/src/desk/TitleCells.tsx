import { useState } from "react";
import type { Sheet, Writing } from "../api/client";
import type { PaperSize } from "../paper/geometry";
import { PAD } from "../paper/useZoom";

/** The title block's fields, edited where they stand. */
export function TitleCells({
  sheet,
  writing,
  paper,
  zoom,
  onTitle,
}: {
  sheet: Sheet;
  writing: Writing;
  paper: PaperSize;
  zoom: number;
  onTitle: (fields: Record<string, string>) => void;
}) {
  const [open, setOpen] = useState<string | null>(null);
  return (
    <>
      {writing.cells
        .filter((cell) => cell.typed)
        .map((cell) => {
          const [x0, y0, x1, y1] = cell.box;
          const style = { left: PAD.left + x0 * zoom, top: PAD.top + (paper.height - y1) * zoom, width: (x1 - x0) * zoom, height: (y1 - y0) * zoom };
          if (open !== cell.key)
            return (
              <button
                key={cell.key}
                type="button"
                className="title-cell"
                style={style}
                aria-label={`${cell.label}: ${cell.value || "empty"}`}
                title={cell.label}
                onPointerDown={(event) => event.stopPropagation()}
                onClick={() => setOpen(cell.key)}
              />
            );
          const take = (text: string) => {
            setOpen(null);
            if (text !== cell.value) onTitle({ [cell.key]: text.trim() });
          };
          return (
            <input
              key={cell.key}
              className="title-cell open"
              style={{ ...style, width: Math.max(style.width, 120), height: Math.max(style.height, 24) }}
              aria-label={cell.label}
              defaultValue={sheet.title[cell.key] ?? cell.value}
              autoFocus
              onPointerDown={(event) => event.stopPropagation()}
              onBlur={(event) => take(event.target.value)}
              onKeyDown={(event) => {
                if (event.key === "Enter") take(event.currentTarget.value);
                if (event.key === "Escape") setOpen(null);
              }}
            />
          );
        })}
    </>
  );
}

import { useRef, useState } from "react";
import type { Note, Sheet } from "../api/client";
import type { PaperSize } from "../paper/geometry";
import { PAD } from "../paper/useZoom";
import * as texts from "./texts";

type Point = [number, number];

/** A note that is being begun: where, and what it points at. */
export interface NewNote {
  place: Point;
  target: Point | null;
}

interface Props {
  sheet: Sheet;
  paper: PaperSize;
  zoom: number;
  fresh: NewNote | null;
  onFresh: (text: string | null) => void;
  onText: (note: string, text: string) => void;
  onMove: (note: string, place: Point) => void;
}

/** Letters are about so wide, in heights of a capital; lines lie so far apart. */
const WIDE = 0.86;
const LEADING = 1.5;
const SLOP = 3;

/** Where a note is written, on the paper: Enter takes it, Shift-Enter begins a line, Escape leaves it as it was. */
function Editor({
  text,
  height,
  angle,
  left,
  top,
  zoom,
  onTake,
}: {
  text: string;
  height: number;
  angle: number;
  left: number;
  top: number;
  zoom: number;
  onTake: (text: string | null) => void;
}) {
  const done = useRef(false);
  const take = (value: string | null) => {
    if (done.current) return;
    done.current = true;
    onTake(value);
  };
  const size = Math.max(height * zoom * 1.36, 11);
  return (
    <textarea
      className="note-editor"
      aria-label={texts.wordsOfTheNote}
      style={{
        left,
        top: top - size * 0.2,
        fontSize: size,
        lineHeight: `${Math.max(height * LEADING * zoom, size)}px`,
        transform: angle ? `rotate(${-angle}deg)` : undefined,
      }}
      defaultValue={text}
      rows={Math.max(1, text.split("\n").length)}
      autoFocus
      onFocus={(event) => event.target.select()}
      onPointerDown={(event) => event.stopPropagation()}
      onInput={(event) => (event.currentTarget.rows = event.currentTarget.value.split("\n").length)}
      onBlur={(event) => take(event.target.value.trimEnd())}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Escape") take(null);
        if (event.key !== "Enter" || event.shiftKey) return;
        event.preventDefault();
        take(event.currentTarget.value.trimEnd());
      }}
    />
  );
}

/** The notes on the paper: double click to write in one, drag to move it; and the one that is being begun. */
export function NoteCells({ sheet, paper, zoom, fresh, onFresh, onText, onMove }: Props) {
  const [open, setOpen] = useState<string | null>(null);
  const hand = useRef<{ x: number; y: number; by: Point } | null>(null);
  const at = ([x, y]: readonly [number, number]) => ({ left: PAD.left + x * zoom, top: PAD.top + (paper.height - y) * zoom });
  const drag = (note: Note) => ({
    onPointerDown: (event: React.PointerEvent<HTMLElement>) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      hand.current = { x: event.clientX, y: event.clientY, by: [0, 0] };
    },
    onPointerMove: (event: React.PointerEvent<HTMLElement>) => {
      const held = hand.current;
      if (!held) return;
      held.by = [event.clientX - held.x, event.clientY - held.y];
      event.currentTarget.style.translate = `${held.by[0]}px ${held.by[1]}px`;
    },
    onPointerUp: (event: React.PointerEvent<HTMLElement>) => {
      const by = hand.current?.by;
      hand.current = null;
      event.currentTarget.style.translate = "";
      if (!by || Math.hypot(...by) < SLOP) return;
      onMove(note.id, [Math.round((note.place[0] + by[0] / zoom) * 10) / 10, Math.round((note.place[1] - by[1] / zoom) * 10) / 10]);
    },
  });
  return (
    <>
      {sheet.notes.map((note) => {
        const rows = note.text.split("\n");
        if (open === note.id)
          return (
            <Editor
              key={note.id}
              {...at(note.place)}
              text={note.text}
              height={note.height}
              angle={note.angle}
              zoom={zoom}
              onTake={(text) => {
                setOpen(null);
                if (text && text !== note.text) onText(note.id, text);
              }}
            />
          );
        const width = Math.max(...rows.map((row) => row.length), 2) * note.height * WIDE * zoom;
        const height = (rows.length * LEADING + 0.3) * note.height * zoom;
        return (
          <div
            key={note.id}
            className="note-cell"
            role="button"
            tabIndex={0}
            aria-label={`Note: ${note.text}`}
            title={texts.doubleClickToWriteIn}
            style={{ ...at(note.place), width, height, transform: note.angle ? `rotate(${-note.angle}deg)` : undefined }}
            onDoubleClick={() => setOpen(note.id)}
            onKeyDown={(event) => event.key === "Enter" && setOpen(note.id)}
            {...drag(note)}
          />
        );
      })}
      {fresh && <Editor {...at(fresh.place)} text="" height={3.5} angle={0} zoom={zoom} onTake={onFresh} />}
    </>
  );
}

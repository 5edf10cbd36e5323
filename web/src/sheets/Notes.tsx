import { Button, Input } from "antd";
import type { Note, Sheet } from "../api/client";
import { useDeskMode } from "./mode";

/** The notes on a sheet: their words, and away with them. */
export function Notes({ sheet, onChange }: { sheet: Sheet; onChange: (notes: Note[]) => void }) {
  const begin = useDeskMode((state) => state.begin);
  return (
    <>
      <ul className="rows">
        {sheet.notes.map((note) => (
          <li key={note.id} className="note-row">
            <Input.TextArea
              size="small"
              autoSize
              aria-label="Note"
              defaultValue={note.text}
              onBlur={(event) => {
                const text = event.target.value.trimEnd();
                if (text && text !== note.text) onChange(sheet.notes.map((n) => (n.id === note.id ? { ...n, text } : n)));
              }}
            />
            <Button type="link" size="small" danger onClick={() => onChange(sheet.notes.filter((n) => n.id !== note.id))}>
              remove
            </Button>
          </li>
        ))}
      </ul>
      <Button type="link" size="small" className="flush" onClick={() => begin("note")}>
        write a note <kbd>N</kbd>
      </Button>
    </>
  );
}

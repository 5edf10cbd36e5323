import { Button, Input } from "antd";
import type { Edit, Note, Sheet } from "../api/client";
import { readLength } from "../api/queries";
import { AngleField } from "../views/AngleField";
import { TypedField } from "../ticket/TypedField";
import { mm } from "../paper/geometry";
import { useDeskMode } from "../views/mode";
import * as texts from "./texts";
import * as viewsTexts from "../views/texts";

/** The lowest and highest lettering of a note, mm. */
const HEIGHTS = [0.5, 100] as const;

async function readHeight(text: string) {
  const height = (await readLength(text)).mm;
  if (height < HEIGHTS[0] || height > HEIGHTS[1]) throw new Error(texts.letteringIsFromToMm(HEIGHTS[0], HEIGHTS[1]));
  return mm(height);
}

/** The notes on a sheet: their words, how high and how they lie, and away with them. */
export function Notes({ sheet, edit }: { sheet: Sheet; edit: (edit: Edit) => void }) {
  const begin = useDeskMode((state) => state.begin);
  const change = (id: string, fields: Partial<Note>) => edit({ kind: "change_note", sheet: sheet.id, note: id, fields });
  return (
    <>
      <ul className="rows">
        {sheet.notes.map((note) => (
          <li key={note.id}>
            <div className="note-row">
              <Input.TextArea
                size="small"
                autoSize
                aria-label={viewsTexts.note}
                defaultValue={note.text}
                onBlur={(event) => {
                  const text = event.target.value.trimEnd();
                  if (text && text !== note.text) change(note.id, { text });
                }}
              />
              <Button type="link" size="small" danger onClick={() => edit({ kind: "remove_note", sheet: sheet.id, note: note.id })}>
                {viewsTexts.remove2}
              </Button>
            </div>
            <div className="note-facts">
              <span className="soft">{texts.mmHigh}</span>
              <TypedField
                label={texts.heightOfTheNote}
                value={mm(note.height)}
                read={readHeight}
                onChange={(text) => change(note.id, { height: Number(text) })}
              />
              <span className="soft">{texts.rotation}</span>
              <AngleField label={texts.rotationOfTheNote} value={note.angle} onChange={(angle) => change(note.id, { angle })} />
              <label>
                <input type="checkbox" checked={note.always} onChange={(event) => change(note.id, { always: event.target.checked })} />{" "}
                {texts.alsoWithGeometryOnly}
              </label>
            </div>
          </li>
        ))}
      </ul>
      <Button type="link" size="small" className="flush" onClick={() => begin("note")}>
        {texts.writeANote} <kbd>N</kbd>
      </Button>
    </>
  );
}

import { Input } from "antd";
import type { PDFPageProxy } from "pdfjs-dist";
import { useEffect, useState } from "react";
import type { Place } from "./Readings";
import * as texts from "./texts";

const MM_PER_POINT = 25.4 / 72;

export interface Found {
  text: string;
  /** The box of what was found before it is turned: its lower left, mm, length and height, mm, and its angle. */
  x: number;
  y: number;
  length: number;
  height: number;
  angle: number;
}

/** Where a text stands on the page, by what the file says of its text. */
export async function findText(page: PDFPageProxy, wanted: string): Promise<Found[]> {
  const unit = MM_PER_POINT * (page.userUnit || 1);
  const { items } = await page.getTextContent();
  const found: Found[] = [];
  const needle = wanted.toLowerCase();
  for (const item of items) {
    if (!("str" in item) || !item.str) continue;
    const text = item.str.toLowerCase();
    const [a, b, , , e, f] = item.transform as number[];
    const size = Math.hypot(a ?? 0, b ?? 0);
    const angle = Math.atan2(b ?? 0, a ?? 0);
    for (let at = text.indexOf(needle); at >= 0; at = text.indexOf(needle, at + needle.length)) {
      const before = (item.width * at) / text.length;
      found.push({
        text: item.str,
        x: ((e ?? 0) + Math.cos(angle) * before) * unit,
        y: ((f ?? 0) + Math.sin(angle) * before) * unit,
        length: ((item.width * needle.length) / text.length) * unit,
        height: size * unit,
        angle,
      });
    }
  }
  return found;
}

interface Props {
  page: PDFPageProxy | null;
  found: readonly Found[];
  setFound: (found: Found[]) => void;
  onGo: (place: Place) => void;
}

/** Looks for words in the file's text, as its reader would. */
export function FindPanel({ page, found, setFound, onGo }: Props) {
  const [text, setText] = useState("");
  useEffect(() => {
    let left = false;
    if (!page || text.trim().length < 2) setFound([]);
    else void findText(page, text.trim()).then((rows) => !left && setFound(rows));
    return () => {
      left = true;
    };
  }, [page, text, setFound]);
  return (
    <>
      <Input
        autoFocus
        allowClear
        aria-label={texts.findInTheFile}
        placeholder={texts.wordsInTheFile}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      {text.trim().length >= 2 && (
        <p className="soft">{found.length === 1 ? texts.foundOnce : found.length ? texts.foundTimes(found.length) : texts.notFoundItMayBe}</p>
      )}
      <ul className="rows" aria-label={texts.foundInTheFile}>
        {found.slice(0, 40).map((row, index) => (
          <li key={index}>
            <button type="button" className="row" onClick={() => onGo([row.x, row.y, row.x + Math.max(row.length, 1), row.y + row.height])}>
              {row.text}
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

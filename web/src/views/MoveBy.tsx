import { Input } from "antd";
import { useState } from "react";
import { readInUnit } from "../api/queries";
import * as texts from "./texts";

/** Moves by an exact distance: across and up, as typed; empty again once it is done. */
export function MoveBy({ move }: { move: (by: [number, number]) => void }) {
  const [text, setText] = useState("");
  const [problem, setProblem] = useState("");
  const take = async () => {
    const parts = text.split(/[,;]/);
    try {
      if (parts.length !== 2) throw new Error(texts.isNotADistanceWrite(text));
      const [dx = 0, dy = 0] = await Promise.all(parts.map(async (part) => (await readInUnit(part.trim())).mm));
      setProblem("");
      setText("");
      move([dx, dy]);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <span className="typed">
      <Input
        aria-label={texts.moveBy}
        variant="borderless"
        placeholder={texts.acrossUp}
        value={text}
        status={problem ? "error" : ""}
        onChange={(event) => setText(event.target.value)}
        onPressEnter={() => void take()}
      />
      {problem && (
        <span className="problem" role="alert">
          {problem}
        </span>
      )}
    </span>
  );
}

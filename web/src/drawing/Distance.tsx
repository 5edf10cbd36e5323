import { Button, Input } from "antd";
import { useState } from "react";
import { readInUnit } from "../api/queries";
import * as texts from "./texts";

interface Props {
  label: string;
  act: string;
  onTake: (by: [number, number]) => void;
}

/** A distance in the drawing as typed, "across, up", and the act that takes it. */
export function Distance({ label, act, onTake }: Props) {
  const [text, setText] = useState("");
  const [problem, setProblem] = useState("");
  const take = async () => {
    const parts = text.split(/[,;]/);
    try {
      if (parts.length !== 2) throw new Error(texts.isNotADistanceWrite(text));
      const [dx = 0, dy = 0] = await Promise.all(parts.map(async (part) => (await readInUnit(part.trim())).mm));
      setProblem("");
      onTake([dx, dy]);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <div className="distance">
      <span className="pair">
        <Input
          size="small"
          aria-label={label}
          placeholder={texts.acrossUp}
          value={text}
          status={problem ? "error" : ""}
          onChange={(event) => setText(event.target.value)}
          onPressEnter={() => void take()}
        />
        <Button size="small" disabled={!text.trim()} title={text.trim() ? undefined : texts.typeADistanceFirst} onClick={() => void take()}>
          {act}
        </Button>
      </span>
      {problem && (
        <span className="problem" role="alert">
          {problem}
        </span>
      )}
    </div>
  );
}

import { Input } from "antd";
import { useEffect, useState } from "react";
import * as texts from "./texts";

interface Props {
  label: string;
  value: number;
  digits?: number;
  unit?: string;
  least?: number;
  most?: number;
  onValue: (value: number) => void;
}

const short = (value: number, digits: number) => Number(value.toFixed(digits)).toString();

/** A number that can be read and typed; what cannot be read says so and changes nothing. */
export function NumberBox({ label, value, digits = 2, unit, least = -1e7, most = 1e7, onValue }: Props) {
  const [text, setText] = useState(short(value, digits));
  const [problem, setProblem] = useState("");
  useEffect(() => {
    setText(short(value, digits));
    setProblem("");
  }, [value, digits]);
  const keep = () => {
    if (text === short(value, digits)) return setProblem("");
    const read = Number(text.replace(",", "."));
    if (!text.trim() || !Number.isFinite(read)) return setProblem(texts.writeANumber);
    if (read < least || read > most) return setProblem(texts.fromTo(least, most));
    setProblem("");
    onValue(read);
  };
  return (
    <label className="number-box">
      <Input
        size="small"
        aria-label={label}
        value={text}
        suffix={unit}
        status={problem ? "error" : ""}
        onChange={(event) => setText(event.target.value)}
        onBlur={keep}
        onPressEnter={keep}
      />
      {problem && <span className="problem">{problem}</span>}
    </label>
  );
}

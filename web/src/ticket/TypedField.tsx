import { Input } from "antd";
import { useEffect, useRef, useState } from "react";
import { counted, useRefused } from "../common/reading";
import { useJobUnit } from "../common/unit";
import { ENDING, shown, typedLength, useTyped, type Typed } from "./typed";
import * as texts from "./texts";

interface Props {
  label: string;
  value: string;
  /** Turns what was typed into the value to keep; throws an Error whose message is shown beside the field. */
  read: (text: string) => Promise<string>;
  onChange: (value: string) => void;
  className?: string;
  suffix?: string;
  /** What stands in an empty field: what holds as long as nothing is typed. */
  placeholder?: string;
  /** A length, mm: shown in the job's unit where none was typed. */
  length?: boolean;
}

const INCHES = { text: "", kept: "", unit: "in" };

/**
 * A value edited in place: Enter or leaving takes it, Escape gives the old one back, what cannot be read says so.
 *
 * The whole value can be seen, whatever its length: a copy of it, which nobody sees, makes the field as large as it takes.
 */
export function TypedField({ label, value, read, onChange, className, suffix, placeholder, length }: Props) {
  const last = useTyped((state) => state.fields[label]);
  const keep = useTyped((state) => state.keep);
  const jobUnit = useJobUnit((state) => state.unit);
  const seen = shown(value, last ?? (length && jobUnit === "in" ? INCHES : null));
  const [text, setText] = useState(seen);
  const [problem, setProblem] = useState("");
  const asked = useRef(0);
  // what has been handed on already and is on its way to become the value
  const sent = useRef<string | null>(null);
  // the unit that was typed holds once the value is there: the old one is not shown in it meanwhile
  const unit = useRef<Typed | null | undefined>(undefined);
  useEffect(() => {
    if (unit.current !== undefined) keep(label, unit.current);
    unit.current = undefined;
  }, [value, label, keep]);
  useEffect(() => {
    sent.current = null;
    setText(seen);
    setProblem("");
  }, [seen]);

  // what was refused is not what holds
  const refused = useRefused((state) => state.count);
  const known = useRef(refused);
  useEffect(() => {
    if (known.current === refused) return;
    known.current = refused;
    if (sent.current === null) return;
    sent.current = null;
    unit.current = undefined;
    setText(seen);
  }, [refused, seen]);

  const take = async () => {
    if (text === sent.current) return;
    if (text === seen) return setProblem("");
    const ask = ++asked.current;
    await counted(async () => {
      try {
        const kept = await read(text);
        if (ask !== asked.current) return;
        setProblem("");
        const typed = typedLength(text, kept);
        setText(shown(kept, typed));
        if (kept === value) return keep(label, typed);
        unit.current = typed;
        sent.current = shown(kept, typed);
        onChange(kept);
      } catch (error) {
        if (ask !== asked.current) return;
        // what cannot be read says so here, and the old value is back
        setProblem((error as Error).message);
        setText(seen);
      }
    });
  };

  return (
    <span className={`typed ${className ?? ""}`}>
      <span className="of-value" aria-hidden>
        {text || placeholder || " "}
      </span>
      <Input.TextArea
        aria-label={label}
        variant="borderless"
        rows={1}
        value={text}
        placeholder={placeholder}
        status={problem ? "error" : ""}
        aria-invalid={!!problem}
        onChange={(event) => setText(event.target.value.replace(/[\r\n]+/g, " "))}
        onFocus={() => {
          sent.current = null;
        }}
        onBlur={() => void take()}
        onKeyDown={(event) => {
          // leaving takes it; the keys are commands again
          if (event.key === "Enter") {
            event.preventDefault();
            event.currentTarget.blur();
          }
          if (event.key === "Escape") {
            // the field is left, not the dialog that it stands in
            event.stopPropagation();
            setText(seen);
            setProblem("");
            event.currentTarget.blur();
          }
        }}
      />
      {suffix && !(length && ENDING.test(text)) && <span className="of-unit">{suffix}</span>}
      {problem && (
        <span className="problem" role="alert">
          {problem} {texts.still} {seen || texts.empty}.
        </span>
      )}
    </span>
  );
}

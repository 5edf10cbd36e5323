import { useRef } from "react";
import { readInUnit } from "../api/queries";
import { inUnit, useJobUnit } from "../common/unit";
import { TypedField } from "../ticket/TypedField";

interface Props {
  label: string;
  /** Lengths, mm. */
  values: readonly number[];
  /** What is to be kept of the lengths that were typed, mm; throws an Error that says why they cannot be. */
  check: (lengths: number[], text: string) => number[];
  onChange: (lengths: number[]) => void;
}

const written = (values: readonly number[]) => values.map((value) => inUnit(value)).join(", ");

/** Several lengths in one field, between commas: shown in the job's unit, and read in it where none was typed. */
export function LengthsField({ label, values, check, onChange }: Props) {
  const unit = useJobUnit((state) => state.unit);
  const kept = useRef<number[]>([]);
  return (
    <TypedField
      label={label}
      value={written(values)}
      suffix={unit}
      read={async (text) => {
        const lengths = await Promise.all(text.split(/[,;]/).map(async (part) => (await readInUnit(part.trim())).mm));
        kept.current = check(lengths, text);
        return written(kept.current);
      }}
      onChange={() => onChange(kept.current)}
    />
  );
}

import { mm } from "../paper/geometry";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

/** An angle in degrees, typed with or without its sign. */
export function AngleField({ label, value, onChange }: { label: string; value: number; onChange: (degrees: number) => void }) {
  return (
    <TypedField
      label={label}
      value={`${mm(value)}°`}
      read={async (text) => {
        const angle = Number(text.replace("°", "").replace(",", "."));
        if (!text.trim() || !Number.isFinite(angle) || Math.abs(angle) > 360) throw new Error(texts.isNotAnAngleWrite(text));
        return `${mm(angle)}°`;
      }}
      onChange={(text) => onChange(Number(text.replace("°", "")))}
    />
  );
}

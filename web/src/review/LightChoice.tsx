import { LIGHTS, OURS, schemeOf } from "./lights";
import * as texts from "./texts";

const mixed = (colour: number, share: number) =>
  `rgb(${[16, 8, 0].map((shift) => Math.round(((colour >> shift) & 255) * Math.min(1, share) ** (1 / 2.2) * 0.92)).join(" ")})`;

/** A ball as a light shows it. */
function Ball({ name }: { name: string }) {
  const [ambient, [x, y, z], colour] = schemeOf(name);
  const size = Math.hypot(x, y, z);
  const id = `light-${name}`;
  return (
    <svg viewBox="0 0 40 40" aria-hidden>
      <radialGradient id={id} cx={0.5 + (x / size) * 0.36} cy={0.5 - (y / size) * 0.36} r={0.78}>
        <stop offset="0" stopColor={mixed(colour, 1)} />
        <stop offset="0.45" stopColor={mixed(colour, ambient + (1 - ambient) * 0.75)} />
        <stop offset="1" stopColor={mixed(colour, ambient)} />
      </radialGradient>
      <circle cx="20" cy="20" r="16" fill={`url(#${id})`} />
    </svg>
  );
}

/** Lights, each with a picture of what it does; one that a file brought stands beside ours. */
export function LightChoice({ value, onValue }: { value: string; onValue: (name: string) => void }) {
  const names = OURS.includes(value) ? OURS : [...OURS, value];
  return (
    <div className="lights" role="radiogroup" aria-label={texts.light}>
      {names.map((name) => (
        <button
          key={name}
          type="button"
          role="radio"
          aria-checked={name === value}
          title={LIGHTS[name] ?? name}
          aria-label={LIGHTS[name] ?? name}
          onClick={() => onValue(name)}
        >
          <Ball name={name} />
          <span>{LIGHTS[name] ?? name}</span>
        </button>
      ))}
    </div>
  );
}

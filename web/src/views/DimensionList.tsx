import { Button, Input } from "antd";
import type { Dimension, Edit, View, Writing } from "../api/client";
import { Section } from "../ticket/Ticket";
import { useDeskMode, type DimensionKind } from "./mode";
import { mm } from "../paper/geometry";
import * as texts from "./texts";

const KINDS: { kind: DimensionKind | null; word: string }[] = [
  { kind: null, word: texts.asMeant },
  { kind: "horizontal", word: texts.across },
  { kind: "vertical", word: texts.upright },
  { kind: "aligned", word: texts.along },
  { kind: "diameter", word: texts.diameter },
  { kind: "radius", word: texts.radius },
  { kind: "angle", word: texts.angle },
];

/** While dimensions are being drawn: which kind the next one is to be. */
export function DimensionKinds() {
  const { kind, setKind } = useDeskMode();
  return (
    <div className="chips" role="group" aria-label={texts.kindOfDimension}>
      {KINDS.map((row) => (
        <button key={row.word} type="button" aria-pressed={kind === row.kind} onClick={() => setKind(row.kind)}>
          {row.word}
        </button>
      ))}
    </div>
  );
}

const FIELDS = [
  ["prefix", texts.beforeSuchAs4],
  ["tolerance", "±0.1, +0.2/-0.1, H7"],
  ["suffix", "after"],
] as const;

interface Props {
  view: View;
  writing: Writing | undefined;
  open: string | null;
  setOpen: (id: string | null) => void;
  onChange: (dimension: string, fields: Partial<Dimension>) => void;
  onRemove: (dimension: string) => void;
}

/** The dimensions of a view; the open one with what can be written beside its value. */
export function DimensionList({ view, writing, open, setOpen, onChange, onRemove }: Props) {
  const drawn = writing?.views[view.id]?.dimensions ?? [];
  return (
    <ul className="rows" aria-label={texts.dimensions}>
      {view.dimensions.map((dimension) => {
        const found = drawn.find((d) => d.id === dimension.id);
        const changed = found && dimension.was !== null && dimension.was !== undefined && Math.abs(dimension.was - found.value) > 5e-5;
        return (
          <li key={dimension.id} className={open === dimension.id ? "open" : ""}>
            <button type="button" className="row" onClick={() => setOpen(open === dimension.id ? null : dimension.id)}>
              <strong>{found?.text ?? texts.lostItsEdge}</strong> <em>{dimension.kind}</em>
            </button>
            {changed && (
              <span className="over">
                {texts.was} {mm(dimension.was as number)}{" "}
                <Button type="link" size="small" onClick={() => onChange(dimension.id, { was: null })}>
                  {texts.seen}
                </Button>
              </span>
            )}
            {open === dimension.id && (
              <div className="row-fields">
                {FIELDS.map(([field, hint]) => (
                  <Input
                    key={field}
                    size="small"
                    aria-label={texts.dimension3(field)}
                    placeholder={hint}
                    defaultValue={dimension[field]}
                    onPressEnter={(event) => event.currentTarget.blur()}
                    onBlur={(event) => event.target.value !== dimension[field] && onChange(dimension.id, { [field]: event.target.value })}
                  />
                ))}
                <Button type="link" danger size="small" onClick={() => onRemove(dimension.id)}>
                  {texts.remove2}
                </Button>
              </div>
            )}
          </li>
        );
      })}
    </ul>
  );
}

interface FactsProps {
  sheet: string;
  view: View;
  writing: Writing | undefined;
  edit: (edit: Edit) => void;
  open: string | null;
  setOpen: (id: string | null) => void;
}

/** A view's dimensions on its ticket, where it has any. */
export function DimensionFacts({ sheet, view, writing, edit, open, setOpen }: FactsProps) {
  if (!view.dimensions.length) return null;
  const on = { sheet, view: view.id };
  return (
    <Section title={texts.dimensions}>
      <DimensionList
        view={view}
        writing={writing}
        open={open}
        setOpen={setOpen}
        onChange={(dimension, fields) => edit({ kind: "change_dimension", ...on, dimension, fields })}
        onRemove={(dimension) => edit({ kind: "remove_dimension", ...on, dimension })}
      />
    </Section>
  );
}

import type { View, Schemas } from "../api/client";
import { modelOf } from "../api/content";
import { Fact, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";

const EDGES = ["visible", "outline", "wire", "hidden", "smooth"] as const;

/** What is drawn of a view: its edges, and what beside them. */
export function ViewChips({ view, change }: { view: View; change: (fields: Schemas["ViewPatch"]) => void }) {
  const model = modelOf(view);
  const setEdge = (edge: (typeof EDGES)[number]) => change({ classes: view.classes.includes(edge) ? view.classes.filter((c) => c !== edge) : [...view.classes, edge] });
  const more: [string, boolean, Schemas["ViewPatch"]][] = [
    ["shaded", !!model?.shaded, { shaded: !model?.shaded }],
    ["centre marks", view.centres, { centres: !view.centres }],
    ["axes of cylinders", view.axes, { axes: !view.axes }],
    ["hole table", !!view.holes, { holes: view.holes ? null : {} }],
  ];
  return (
    <>
      <Section title="Edges">
        <div className="chips">
          {EDGES.map((edge) => (
            <button key={edge} type="button" aria-pressed={view.classes.includes(edge)} onClick={() => setEdge(edge)}>
              {edge}
            </button>
          ))}
        </div>
      </Section>
      <Section title="Annotations">
        <div className="chips">
          {more.map(([word, on, fields]) => (
            <button key={word} type="button" aria-pressed={on} onClick={() => change(fields)}>
              {word}
            </button>
          ))}
        </div>
        {model?.shaded && (
          <Fact name="Resolution">
            <TypedField
              label="Resolution of the shading"
              value={`${model.shade_dpi}`}
              suffix="dpi"
              read={async (text) => {
                const dpi = Number(text.replace(/\s*dpi\s*$/, ""));
                if (!Number.isInteger(dpi) || dpi < 36 || dpi > 1200) throw new Error(`“${text}” is not a resolution: write 36 to 1200 dpi.`);
                return `${dpi}`;
              }}
              onChange={(text) => change({ shade_dpi: Number(text) })}
            />
          </Fact>
        )}
      </Section>
    </>
  );
}

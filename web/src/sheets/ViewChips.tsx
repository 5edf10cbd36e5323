import type { View, Schemas } from "../api/client";
import { modelOf } from "../api/content";
import { Fact, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

const EDGES = ["visible", "outline", "wire", "hidden", "smooth"] as const;

/** What is drawn of a view: its edges, and what beside them. */
export function ViewChips({ view, change }: { view: View; change: (fields: Schemas["ViewPatch"]) => void }) {
  const model = modelOf(view);
  const setEdge = (edge: (typeof EDGES)[number]) =>
    change({ classes: view.classes.includes(edge) ? view.classes.filter((c) => c !== edge) : [...view.classes, edge] });
  const more: [string, boolean, Schemas["ViewPatch"]][] = [
    ["shaded", !!model?.shaded, { shaded: !model?.shaded }],
    [texts.centreMarks, view.centres, { centres: !view.centres }],
    [texts.axesOfCylinders, view.axes, { axes: !view.axes }],
    [texts.holeTable, !!view.holes, { holes: view.holes ? null : {} }],
  ];
  return (
    <>
      <Section title={texts.edges}>
        <div className="chips">
          {EDGES.map((edge) => (
            <button key={edge} type="button" aria-pressed={view.classes.includes(edge)} onClick={() => setEdge(edge)}>
              {edge === "smooth" ? texts.tangent : edge}
            </button>
          ))}
        </div>
      </Section>
      <Section title={texts.annotations}>
        <div className="chips">
          {more.map(([word, on, fields]) => (
            <button key={word} type="button" aria-pressed={on} onClick={() => change(fields)}>
              {word}
            </button>
          ))}
        </div>
        {model?.shaded && (
          <Fact name={texts.resolution}>
            <TypedField
              label={texts.resolutionOfTheShading}
              value={`${model.shade_dpi}`}
              suffix={texts.dpi}
              read={async (text) => {
                const dpi = Number(text.replace(/\s*dpi\s*$/, ""));
                if (!Number.isInteger(dpi) || dpi < 36 || dpi > 1200) throw new Error(texts.isNotAResolutionWrite(text));
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

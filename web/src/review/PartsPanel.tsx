import { Checkbox, Input } from "antd";
import { useState } from "react";
import { PART_ACTS } from "./acts";
import { beneath, type Node } from "./model";
import { useReview, type Review } from "./state";
import * as texts from "./texts";

const MANY = 12;

/** The tree of parts: ticked is shown; what is chosen can be shown alone, seen through, gone to. */
export function PartsPanel({ review }: { review: Review }) {
  const { model, show, select } = review.getState();
  const selected = useReview(review, (state) => state.selected);
  const states = useReview(review, (state) => state.look.states);
  const [text, setText] = useState("");
  const [shut, setShut] = useState<ReadonlySet<string>>(new Set());
  const wanted = text.trim().toLowerCase();
  const has = (node: Node) => model.nodes.some((other) => other.parent === node.name);
  const isHidden = (node: Node) =>
    beneath(model, node.name).every((name) => states[name] === null || !model.nodes.find((own) => own.name === name)?.meshes.length);
  const rows = (parent: string, depth: number): { node: Node; depth: number }[] =>
    model.nodes
      .filter((node) => node.parent === parent)
      .flatMap((node) => {
        const below = wanted || !shut.has(node.name) ? rows(node.name, depth + 1) : [];
        const fits = !wanted || node.name.toLowerCase().includes(wanted) || below.length > 0;
        return fits ? [{ node, depth }, ...below] : [];
      });
  const turn = (name: string) => setShut(new Set(shut.has(name) ? [...shut].filter((own) => own !== name) : [...shut, name]));
  return (
    <div className="review-parts">
      {model.groups.length > 0 && <Classes review={review} wanted={wanted} isHidden={isHidden} />}
      {model.nodes.length > MANY && (
        <Input
          allowClear
          size="small"
          placeholder={texts.findAPart}
          aria-label={texts.findAPart}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      )}
      <ul className="part-rows" aria-label={texts.parts}>
        {rows("", 0).map(({ node, depth }) => (
          <li
            key={node.name}
            ref={node.name === selected ? (row) => row?.scrollIntoView({ block: "nearest" }) : undefined}
            className={node.name === selected ? "at" : ""}
            style={{ paddingLeft: depth * 13 }}
          >
            <span className="part-row">
              {has(node) ? (
                <button
                  type="button"
                  className="turn-row"
                  aria-expanded={!shut.has(node.name)}
                  aria-label={texts.partsOf(node.name)}
                  onClick={() => turn(node.name)}
                >
                  {shut.has(node.name) ? "+" : "–"}
                </button>
              ) : (
                <i style={{ background: node.materials[0]?.[0] }} aria-hidden />
              )}
              <Checkbox checked={!isHidden(node)} aria-label={texts.show(node.name)} onChange={() => show(node.name, "toggle")} />
              <button type="button" className="part-name" onClick={() => select(node.name === selected ? null : node.name)}>
                {node.name}
              </button>
              {typeof states[node.name] === "number" && <em>{Math.round((states[node.name] as number) * 100)} %</em>}
            </span>
            {node.name === selected && (
              <span className="part-acts">
                {PART_ACTS.map((act) => (
                  <button key={act.id} type="button" title={act.key} onClick={() => act.run(review.getState(), node.name)}>
                    {act.id === "hide" && isHidden(node) ? texts.show2 : act.title}
                  </button>
                ))}
              </span>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** The classes of the model's parts: shown or not as a whole, or alone. */
function Classes({ review, wanted, isHidden }: { review: Review; wanted: string; isHidden: (node: Node) => boolean }) {
  const { model, show } = review.getState();
  useReview(review, (state) => state.look.states);
  const rows = model.groups.filter(
    (name) => !wanted || name.toLowerCase().includes(wanted) || beneath(model, name).some((own) => own.toLowerCase().includes(wanted)),
  );
  return (
    <ul className="rows classes" aria-label={texts.classes}>
      {rows.map((name) => {
        const node = model.nodes.find((own) => own.name === name);
        const count = beneath(model, name).length - 1;
        return (
          <li key={name}>
            <Checkbox checked={!!node && !isHidden(node)} aria-label={texts.show(name)} onChange={() => show(name, "toggle")}>
              {name} <em>{count}</em>
            </Checkbox>
            <button type="button" className="as-file" onClick={() => show(name, "only")}>
              {texts.onlyThisClass}
            </button>
          </li>
        );
      })}
    </ul>
  );
}

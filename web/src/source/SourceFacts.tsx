import type { Component, Job, Tree } from "../api/client";
import { Fact } from "../ticket/Ticket";
import { sizeText } from "./components";
import { PartFields } from "./PartFields";

const volume = new Intl.NumberFormat("en", { maximumSignificantDigits: 5 });

/** A component and all that is in it. */
export const walk = (component: Component): Component[] => [component, ...(component.children ?? []).flatMap(walk)];

/** What is known of a model, or of the component that is selected in it. */
export function SourceFacts({ job, source, tree, name, selected }: { job: Job; source: string; tree: Tree; name: string; selected: Component | null }) {
  const leaves = tree.components.flatMap(walk).filter((c) => c.shape !== null && c.shape !== undefined);
  if (selected) {
    const alike = leaves.filter((leaf) => leaf.shape === selected.shape).length;
    return (
      <>
        <Fact name="Part">{selected.part}</Fact>
        <Fact name="Size">{sizeText(selected.size)} mm</Fact>
        <Fact name="Volume">{selected.volume ? `${volume.format(selected.volume / 1000)} cm³` : "not closed"}</Fact>
        {selected.shape !== null && selected.shape !== undefined && <Fact name="Occurs">{alike === 1 ? "once" : `${alike} times`}</Fact>}
        {selected.opacity < 1 && <Fact name="Covers">{Math.round(selected.opacity * 100)} %, seen through</Fact>}
        <PartFields job={job} source={source} component={selected} />
      </>
    );
  }
  return (
    <>
      <Fact name="File">{name}</Fact>
      <Fact name="Size">{sizeText(tree.size)} mm</Fact>
      <Fact name="Components">{leaves.length}</Fact>
      <Fact name="Solids">{tree.solids || "none, surfaces only"}</Fact>
      <Fact name="Different parts">{tree.shapes.length}</Fact>
      {tree.lost.length > 0 && (
        <ul className="told" aria-label="Left out">
          {tree.lost.map((sentence) => (
            <li key={sentence}>{sentence}</li>
          ))}
        </ul>
      )}
    </>
  );
}

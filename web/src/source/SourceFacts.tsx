import type { Component, Job, Tree } from "../api/client";
import { useSayUnit } from "../api/queries";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { sizeText } from "../components/components";
import { PartFields } from "./PartFields";
import * as texts from "./texts";

const volume = new Intl.NumberFormat("en", { maximumSignificantDigits: 5 });

/** A component and all that is in it. */
export const walk = (component: Component): Component[] => [component, ...(component.children ?? []).flatMap(walk)];

/** What is known of a model, or of the component that is selected in it. */
export function SourceFacts({ job, source, tree, name, selected }: { job: Job; source: string; tree: Tree; name: string; selected: Component | null }) {
  const say = useSayUnit(job.id);
  const leaves = tree.components.flatMap(walk).filter((c) => c.shape !== null && c.shape !== undefined);
  if (selected) {
    const alike = leaves.filter((leaf) => leaf.shape === selected.shape).length;
    return (
      <>
        <Fact name={texts.part}>{selected.part}</Fact>
        <Fact name={texts.size}>
          {sizeText(selected.size)} {texts.mm}
        </Fact>
        <Fact name={texts.volume}>{selected.volume ? texts.cm(volume.format(selected.volume / 1000)) : texts.notClosed}</Fact>
        {selected.shape !== null && selected.shape !== undefined && <Fact name={texts.occurs}>{alike === 1 ? "once" : texts.times(alike)}</Fact>}
        {selected.opacity < 1 && (
          <Fact name={texts.covers}>
            {Math.round(selected.opacity * 100)} {texts.seenThrough}
          </Fact>
        )}
        <PartFields job={job} source={source} component={selected} />
      </>
    );
  }
  return (
    <>
      <Fact name={texts.file}>{name}</Fact>
      <Fact name={texts.size}>
        {sizeText(tree.size)} {texts.mm}
      </Fact>
      <Fact name={texts.millimetreOfTheFile}>
        <TypedField
          label={texts.millimetreOfTheFile}
          value={String(tree.said_unit)}
          read={async (text) => (/^[\d.]+$/.test(text.trim()) ? `${text.trim()}mm` : text.trim())}
          onChange={(unit) => say.mutate({ source, unit })}
          suffix={texts.mm}
        />
      </Fact>
      <Fact name={texts.components}>{leaves.length}</Fact>
      <Fact name={texts.solids}>{tree.solids || texts.noneSurfacesOnly}</Fact>
      <Fact name={texts.differentParts}>{tree.shapes.length}</Fact>
      {tree.lost.length > 0 && (
        <ul className="told" aria-label={texts.leftOut}>
          {tree.lost.map((sentence) => (
            <li key={sentence}>{sentence}</li>
          ))}
        </ul>
      )}
    </>
  );
}

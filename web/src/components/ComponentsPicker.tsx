import { Button, Modal, Spin } from "antd";
import { Suspense, useMemo } from "react";
import type { Item, Job, View } from "../api/client";
import { useLatest } from "../api/change";
import { useItems } from "../api/desk";
import { useTree } from "../api/queries";
import { part } from "../common/part";
import { leavesBeneath } from "./components";
import * as texts from "./texts";

const ComponentTree = part(async () => (await import("./ComponentTree")).ComponentTree);

interface Props {
  job: Job;
  view: Pick<View, "source" | "name"> & { hidden: string[] };
  title?: string;
  open: boolean;
  close: () => void;
  onHidden: (hidden: string[]) => void;
}

interface Class {
  word: string;
  paths: string[];
}

/** Components by class: bought, fasteners, each material. */
function classes(items: Item[]): Class[] {
  const of = (word: string, chosen: Item[]) => ({ word, paths: chosen.flatMap((item) => item.components) });
  const materials = [...new Set(items.map((item) => item.material).filter(Boolean))];
  const colours = [...new Set(items.map((item) => item.colour))];
  return [
    of(
      texts.boughtParts,
      items.filter((item) => item.bought),
    ),
    of(
      "fasteners",
      items.filter((item) => item.fastener),
    ),
    of(
      texts.shaftsAndPins,
      items.filter((item) => item.shaft),
    ),
    ...materials.map((material) =>
      of(
        material,
        items.filter((item) => item.material === material),
      ),
    ),
    ...(colours.length <= 8
      ? colours.map((colour) =>
          of(
            colour,
            items.filter((item) => item.colour === colour),
          ),
        )
      : []),
  ].filter((row) => row.paths.length);
}

/** Which components a view shows. */
export function ComponentsPicker({ job, view, title, open, close, onHidden }: Props) {
  const { data: tree } = useTree(view.source);
  const { data: items = [] } = useItems(job, open ? view.source : undefined);
  const leaves = useMemo(() => tree?.components.flatMap(leavesBeneath) ?? [], [tree]);
  const [hidden, setHidden] = useLatest(job.id, view.hidden);
  const shown = useMemo(() => new Set(leaves.filter((path) => !hidden.some((h) => path === h || path.startsWith(`${h}/`)))), [leaves, hidden]);
  const keep = (next: Set<string>) => {
    const left = leaves.filter((path) => !next.has(path));
    setHidden(left);
    onHidden(left);
  };
  const rows = useMemo(() => classes(items), [items]);
  return (
    <Modal
      open={open}
      onCancel={close}
      title={title ?? texts.componentsOfTheView(view.name)}
      width={640}
      footer={<Button onClick={close}>{texts.done}</Button>}
    >
      <p className="soft">
        {shown.size} {texts.ofWord} {leaves.length} {texts.shownOneTakenOutHides}{" "}
        <Button type="link" size="small" onClick={() => keep(new Set(leaves))}>
          {texts.showAll}
        </Button>
      </p>
      <ul className="classes" aria-label={texts.byClass}>
        {rows.map((row) => {
          const count = row.paths.filter((path) => shown.has(path)).length;
          return (
            <li key={row.word}>
              {row.word.startsWith("#") && <i className="swatch" style={{ background: row.word }} />} {row.word}{" "}
              <em>
                {count} {texts.ofWord} {row.paths.length}
              </em>
              <Button
                type="link"
                size="small"
                onClick={() => keep(count ? new Set([...shown].filter((path) => !row.paths.includes(path))) : new Set([...shown, ...row.paths]))}
              >
                {count ? "hide" : "show"}
              </Button>
              <Button type="link" size="small" onClick={() => keep(new Set(row.paths))}>
                {texts.onlyThese}
              </Button>
            </li>
          );
        })}
      </ul>
      {tree && (
        <Suspense fallback={<Spin />}>
          <ComponentTree tree={tree} height={320} shown={shown} onShown={keep} only />
        </Suspense>
      )}
    </Modal>
  );
}

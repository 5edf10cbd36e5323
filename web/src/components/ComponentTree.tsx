import { Input, Tree } from "antd";
import { useMemo, useState, type Key } from "react";
import type { Component, Tree as ModelTree } from "../api/client";
import { leavesBeneath, sizeText } from "./components";
import * as texts from "./texts";

interface Node {
  key: string;
  title: string;
  component: Component;
  children: Node[];
}

const toNode = (component: Component): Node => ({
  key: component.path,
  title: component.name,
  component,
  children: (component.children ?? []).map(toNode),
});

const matches = (node: Node, text: string): boolean => node.title.toLowerCase().includes(text) || node.children.some((child) => matches(child, text));

const filtered = (nodes: Node[], text: string): Node[] =>
  nodes
    .filter((node) => matches(node, text))
    .map((node) => (node.title.toLowerCase().includes(text) ? node : { ...node, children: filtered(node.children, text) }));

const keeping = (nodes: Node[], marks: ReadonlyMap<string, string>): Node[] =>
  nodes.flatMap((node) => {
    const children = keeping(node.children, marks);
    return marks.has(node.key) || children.length ? [{ ...node, children }] : [];
  });

interface Props {
  tree: ModelTree;
  height: number;
  selected?: string | null;
  /** Selected beside that one. */
  also?: readonly string[];
  /** *more* with Ctrl or Shift held: beside what is selected. */
  onSelect?: (path: string | null, more: boolean) => void;
  /** Leaf paths that are shown; with it the tree has boxes to tick. */
  shown?: ReadonlySet<string>;
  onShown?: (shown: Set<string>) => void;
  /** Offer "only this" beside every component. */
  only?: boolean;
  /** What some components are marked with, by path. */
  marks?: ReadonlyMap<string, string>;
  /** Show none but these, and what they are in. */
  onlyMarked?: boolean;
}

/** The component tree with each one's size; to select from, or to tick what is shown. */
export function ComponentTree({ tree, height, selected, also, onSelect, shown, onShown, only, marks, onlyMarked }: Props) {
  const [text, setText] = useState("");
  const nodes = useMemo(() => tree.components.map(toNode), [tree]);
  const chosen = useMemo(() => (onlyMarked && marks ? keeping(nodes, marks) : nodes), [nodes, onlyMarked, marks]);
  const visible = text ? filtered(chosen, text.toLowerCase()) : chosen;
  const first = useMemo(
    () => nodes.flatMap((root) => (root.children.length > 12 ? [root.key] : [root.key, ...root.children.slice(0, 1).map((c) => c.key)])),
    [nodes],
  );
  const [open, setOpen] = useState<Key[]>(first);
  const openNow = useMemo(() => {
    if (text)
      return visible.flatMap(function all(node: Node): string[] {
        return [node.key, ...node.children.flatMap(all)];
      });
    if (!selected) return open;
    const parts = selected.split("/");
    return [...open, ...parts.slice(1).map((_, i) => parts.slice(0, i + 1).join("/"))];
  }, [text, visible, open, selected]);

  return (
    <div className="component-tree">
      <Input
        allowClear
        size="small"
        placeholder={texts.findAComponent}
        aria-label={texts.findAComponent}
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <Tree<Node>
        treeData={visible}
        height={height}
        blockNode
        // a list that moves by itself shows rows that are no longer there, and clicks on them go astray
        motion={false}
        checkable={!!onShown}
        checkedKeys={shown ? [...shown] : undefined}
        onCheck={(_, { node, checked }) => {
          const next = new Set(shown);
          for (const path of leavesBeneath(node.component)) {
            if (checked) next.add(path);
            else next.delete(path);
          }
          onShown?.(next);
        }}
        selectable={!!onSelect}
        multiple
        selectedKeys={[...(selected ? [selected] : []), ...(also ?? [])]}
        onSelect={(_, { node, selected: on, nativeEvent }) => {
          const more = nativeEvent.ctrlKey || nativeEvent.metaKey || nativeEvent.shiftKey;
          onSelect?.(more || on || (also?.length ?? 0) > 0 ? node.key : null, more);
        }}
        expandedKeys={openNow}
        onExpand={setOpen}
        titleRender={(node) => (
          <span className="component">
            <i style={{ background: node.component.colour }} aria-hidden />
            <span>{node.title}</span>
            {only && (
              <button
                type="button"
                className="only"
                onClick={(event) => {
                  event.stopPropagation();
                  onShown?.(new Set(leavesBeneath(node.component)));
                }}
              >
                {texts.onlyThis}
              </button>
            )}
            {marks?.has(node.key) && (
              <b className="mark" title={marks.get(node.key)}>
                {marks.get(node.key)?.startsWith("flat") ? "▭" : "∠"}
              </b>
            )}
            <em>{sizeText(node.component.size)}</em>
          </span>
        )}
      />
    </div>
  );
}

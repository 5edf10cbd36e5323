import { Spin } from "antd";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Component, Vector } from "../api/client";
import { leavesBeneath } from "../components/components";
import { ModelStage } from "./modelStage";
import * as texts from "./texts";

interface Props {
  source: string;
  leaves: readonly Component[];
  look: Vector;
  up: Vector;
  selected: readonly Component[];
  /** *more* with Ctrl or Shift held: beside what is selected. */
  onSelect: (path: string | null, more: boolean) => void;
  /** Counts up to have the camera turn to look and up, and take the whole model in. */
  turn: number;
  /** Told how the model is turned, whenever it is. */
  onTurned?: (look: Vector, up: Vector) => void;
}

/** The model in its true colours, to turn, zoom and pick from. */
export default function Scene(props: Props) {
  const { source, leaves, selected, turn } = props;
  const element = useRef<HTMLDivElement>(null);
  const stage = useRef<ModelStage>(null);
  const [ready, setReady] = useState("");
  const now = useRef(props);
  now.current = props;
  useEffect(() => {
    if (!element.current) return;
    const own = new ModelStage(element.current, source, () => ({
      ready: () => setReady(source),
      pick: (leaf, more) => now.current.onSelect(leaf === null ? null : (now.current.leaves[leaf]?.path ?? null), more),
      turned: (look, up) => now.current.onTurned?.(look, up),
    }));
    stage.current = own;
    return () => {
      stage.current = null;
      own.dispose();
    };
  }, [source]);
  useEffect(() => stage.current?.turnTo(now.current.look, now.current.up), [turn, source]);
  const chosen = useMemo(() => {
    const paths = new Set(selected.flatMap(leavesBeneath));
    return new Set(leaves.flatMap(({ path }, number) => (paths.has(path) ? [number] : [])));
  }, [selected, leaves]);
  useEffect(() => stage.current?.choose(chosen), [chosen, source]);
  return (
    <>
      <div ref={element} className="model-canvas" />
      {ready !== source && <Spin description={texts.openingThe3dView} />}
    </>
  );
}

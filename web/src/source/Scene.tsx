import { OrbitControls, useGLTF } from "@react-three/drei";
import { Canvas, useThree, type ThreeEvent } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import * as three from "three";
import type { OrbitControls as Controls } from "three-stdlib";
import type { Component, Vector } from "../api/client";
import { colours } from "../common/theme";
import { leavesBeneath } from "../components/components";

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

const EDGE_ANGLE = 28;
const edgeMaterial = new three.LineBasicMaterial({ color: colours.ink, transparent: true, opacity: 0.55 });
const chosenMaterial = new three.MeshStandardMaterial({ color: colours.accent, roughness: 0.5, side: three.DoubleSide });

/** The number of the leaf that a node of the scene belongs to: nodes are called "leaf.part". */
function leafOf(object: three.Object3D | null): number | null {
  for (let at = object; at; at = at.parent) {
    const match = /^(\d+)\.\d+$/.exec(String(at.userData.name ?? ""));
    if (match) return Number(match[1]);
  }
  return null;
}

function Model({ source, leaves, selected, onSelect }: Props) {
  const { scene } = useGLTF(`/api/sources/${source}/scene.glb`);
  const copy = useMemo(() => {
    const own = scene.clone(true);
    const edges = new Map<string, three.EdgesGeometry>();
    const meshes: three.Mesh[] = [];
    own.traverse((object) => {
      if (object instanceof three.Mesh) meshes.push(object);
    });
    for (const mesh of meshes) {
      const geometry = mesh.geometry as three.BufferGeometry;
      if (!edges.has(geometry.uuid)) edges.set(geometry.uuid, new three.EdgesGeometry(geometry, EDGE_ANGLE));
      mesh.userData.own = mesh.material;
      const lines = new three.LineSegments(edges.get(geometry.uuid), edgeMaterial);
      lines.raycast = () => undefined;
      mesh.add(lines);
    }
    return { own, meshes };
  }, [scene]);
  const chosen = useMemo(() => new Set(selected.flatMap(leavesBeneath)), [selected]);
  const { invalidate } = useThree();
  useEffect(() => {
    for (const mesh of copy.meshes) {
      const leaf = leafOf(mesh);
      const path = leaf === null ? undefined : leaves[leaf]?.path;
      mesh.material = path !== undefined && chosen.has(path) ? chosenMaterial : (mesh.userData.own as three.Material);
    }
    invalidate();
  }, [copy, chosen, leaves, invalidate]);
  const pick = (event: ThreeEvent<MouseEvent>) => {
    event.stopPropagation();
    // a turn of the model ends in a click as well
    if (event.delta > 3) return;
    const leaf = leafOf(event.object);
    const { ctrlKey, metaKey, shiftKey } = event.nativeEvent;
    onSelect(leaf === null ? null : (leaves[leaf]?.path ?? null), ctrlKey || metaKey || shiftKey);
  };
  return <primitive object={copy.own} onClick={pick} />;
}

const rounded = (v: three.Vector3): Vector => [v.x, v.y, v.z].map((n) => Math.round(n * 1e4) / 1e4) as Vector;

/** The direction that a camera looks along and the one that is up on its picture. */
function tellTurned(camera: three.Camera, tell: Props["onTurned"]) {
  const look = camera.getWorldDirection(new three.Vector3());
  const up = new three.Vector3(0, 1, 0).applyQuaternion(camera.quaternion);
  tell?.(rounded(look), rounded(up));
}

/** Sets the camera to a viewpoint and fits the model in, whenever asked to. */
function Camera({ look, up, turn }: Pick<Props, "look" | "up" | "turn">) {
  const { camera, scene, size, controls, invalidate } = useThree();
  const asked = useRef({ look, up });
  asked.current = { look, up };
  useEffect(() => {
    const model = scene.getObjectByName("model");
    if (!model || !(camera instanceof three.OrthographicCamera)) return;
    const box = new three.Box3().setFromObject(model);
    if (box.isEmpty()) return;
    const centre = box.getCenter(new three.Vector3());
    const radius = box.getSize(new three.Vector3()).length() / 2;
    const direction = new three.Vector3(...asked.current.look).normalize();
    camera.up.set(0, 0, 1);
    // straight up or down the turntable's axis has no up of its own: a hair off it keeps the wanted one
    if (Math.abs(direction.z) > 0.9999) direction.addScaledVector(new three.Vector3(...asked.current.up), -Math.sign(direction.z) * 1e-3).normalize();
    camera.position.copy(centre).addScaledVector(direction, -radius * 4);
    camera.near = 0;
    camera.far = radius * 8;
    const corners = [box.min, box.max].flatMap((a) => [box.min, box.max].flatMap((b) => [box.min, box.max].map((c) => new three.Vector3(a.x, b.y, c.z))));
    camera.lookAt(centre);
    camera.updateMatrixWorld();
    const inView = corners.map((corner) => corner.sub(centre).applyQuaternion(camera.quaternion.clone().invert()));
    const width = Math.max(...inView.map((v) => Math.abs(v.x))) * 2;
    const height = Math.max(...inView.map((v) => Math.abs(v.y))) * 2;
    camera.zoom = 0.86 * Math.min(size.width / width, size.height / height);
    camera.updateProjectionMatrix();
    const orbit = controls as Controls | null;
    if (orbit) {
      orbit.target.copy(centre);
      orbit.update();
    }
    invalidate();
  }, [turn, camera, scene, size, controls, invalidate]);
  return null;
}

/** The model in its true colours, to turn, zoom and pick from. */
export default function Scene(props: Props) {
  return (
    <Canvas orthographic frameloop="demand" dpr={[1, 2]} onPointerMissed={(event) => event.type === "click" && props.onSelect(null, event.ctrlKey || event.metaKey || event.shiftKey)}>
      <color attach="background" args={[colours.desk]} />
      <hemisphereLight args={["#ffffff", "#9d978a", 1.5]} />
      <directionalLight position={[-2, -4, 5]} intensity={1.7} />
      <directionalLight position={[4, 2, 1]} intensity={0.5} />
      <group name="model">
        <Model {...props} />
      </group>
      <OrbitControls makeDefault enableDamping={false} onChange={(event) => event && tellTurned(event.target.object, props.onTurned)} />
      <Camera look={props.look} up={props.up} turn={props.turn} />
    </Canvas>
  );
}


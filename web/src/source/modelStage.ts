import * as three from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";
import type { Vector } from "../api/client";
import { colours } from "../common/theme";

const EDGE_ANGLE = 28;
const STILL = 3;
const edgeMaterial = new three.LineBasicMaterial({ color: colours.ink, transparent: true, opacity: 0.55 });
const chosenMaterial = new three.MeshStandardMaterial({ color: colours.accent, roughness: 0.5, side: three.DoubleSide });

export interface Hands {
  /** The model is there, and is drawn. */
  ready: () => void;
  /** A click on a leaf, by its number, or beside the model; *more* with Ctrl or Shift held. */
  pick: (leaf: number | null, more: boolean) => void;
  turned: (look: Vector, up: Vector) => void;
}

/** The number of the leaf that a node of the scene belongs to: nodes are called "leaf.part". */
function leafOf(object: three.Object3D | null): number | null {
  for (let at = object; at; at = at.parent) {
    const match = /^(\d+)\.\d+$/.exec(String(at.userData.name ?? ""));
    if (match) return Number(match[1]);
  }
  return null;
}

const rounded = (v: three.Vector3): Vector => [v.x, v.y, v.z].map((n) => Math.round(n * 1e4) / 1e4) as Vector;

/** The eight corners of a box. */
const cornersOf = ({ min, max }: three.Box3) => [min, max].flatMap((a) => [min, max].flatMap((b) => [min, max].map((c) => new three.Vector3(a.x, b.y, c.z))));

/** A source's model in its true colours, drawn into an element, to turn, zoom and pick from. */
export class ModelStage {
  private readonly renderer = new three.WebGLRenderer({ antialias: true });
  private readonly scene = new three.Scene();
  private readonly camera = new three.OrthographicCamera();
  private readonly model = new three.Group();
  private readonly controls: OrbitControls;
  private readonly observer: ResizeObserver;
  private readonly meshes: three.Mesh[] = [];
  private readonly edges = new Set<three.BufferGeometry>();
  private readonly ray = new three.Raycaster();
  private chosen: ReadonlySet<number> = new Set();
  private direction: { look: Vector; up: Vector } | null = null;
  private asked = 0;
  private gone = false;
  private down: { x: number; y: number } | null = null;

  constructor(
    private readonly element: HTMLElement,
    source: string,
    private readonly hands: () => Hands,
  ) {
    const { renderer, scene, camera } = this;
    renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    scene.background = new three.Color(colours.desk);
    const [key, fill] = [new three.DirectionalLight(undefined, 1.7), new three.DirectionalLight(undefined, 0.5)];
    key.position.set(-2, -4, 5);
    fill.position.set(4, 2, 1);
    scene.add(new three.HemisphereLight(colours.light, colours.shade, 1.5), key, fill, this.model);
    camera.up.set(0, 0, 1);
    camera.position.set(0, -1, 0);
    this.controls = new OrbitControls(camera, renderer.domElement);
    this.controls.addEventListener("change", () => {
      this.draw();
      this.tellTurned();
    });
    renderer.domElement.addEventListener("pointerdown", ({ clientX, clientY }) => (this.down = { x: clientX, y: clientY }));
    renderer.domElement.addEventListener("click", (event) => this.click(event));
    this.observer = new ResizeObserver(() => this.resize());
    this.observer.observe(element);
    void this.load(source);
  }

  private async load(source: string) {
    const { scene } = await new GLTFLoader().loadAsync(`/api/sources/${source}/scene.glb`);
    if (this.gone) return;
    const edges = new Map<string, three.EdgesGeometry>();
    scene.traverse((object) => {
      if (object instanceof three.Mesh) this.meshes.push(object as three.Mesh);
    });
    for (const mesh of this.meshes) {
      const geometry = mesh.geometry;
      const own = edges.get(geometry.uuid) ?? new three.EdgesGeometry(geometry, EDGE_ANGLE);
      edges.set(geometry.uuid, own);
      this.edges.add(geometry).add(own);
      mesh.userData.own = mesh.material;
      const lines = new three.LineSegments(own, edgeMaterial);
      lines.raycast = () => undefined;
      mesh.add(lines);
    }
    this.model.add(scene);
    this.element.append(this.renderer.domElement);
    this.dress();
    this.fit();
    this.hands().ready();
  }

  /** Shows these leaves, by their numbers, as chosen. */
  choose(leaves: ReadonlySet<number>) {
    this.chosen = leaves;
    this.dress();
  }

  /** Turns the camera to a viewpoint and takes the whole model in. */
  turnTo(look: Vector, up: Vector) {
    this.direction = { look, up };
    this.fit();
  }

  private dress() {
    for (const mesh of this.meshes) {
      const leaf = leafOf(mesh);
      mesh.material = leaf !== null && this.chosen.has(leaf) ? chosenMaterial : (mesh.userData.own as three.Material);
    }
    this.draw();
  }

  private fit() {
    const { camera, controls, direction } = this;
    const box = new three.Box3().setFromObject(this.model);
    const { clientWidth, clientHeight } = this.element;
    if (box.isEmpty() || !direction || !clientWidth || !clientHeight) return;
    const centre = box.getCenter(new three.Vector3());
    const radius = box.getSize(new three.Vector3()).length() / 2;
    const look = new three.Vector3(...direction.look).normalize();
    // straight up or down the turntable's axis has no up of its own: a hair off it keeps the wanted one
    if (Math.abs(look.z) > 0.9999) look.addScaledVector(new three.Vector3(...direction.up), -Math.sign(look.z) * 1e-3).normalize();
    camera.position.copy(centre).addScaledVector(look, -radius * 4);
    camera.near = 0;
    camera.far = radius * 8;
    camera.lookAt(centre);
    camera.updateMatrixWorld();
    const inView = cornersOf(box).map((corner) => corner.sub(centre).applyQuaternion(camera.quaternion.clone().invert()));
    const width = Math.max(...inView.map((v) => Math.abs(v.x))) * 2;
    const height = Math.max(...inView.map((v) => Math.abs(v.y))) * 2;
    camera.zoom = 0.86 * Math.min(clientWidth / width, clientHeight / height);
    camera.updateProjectionMatrix();
    controls.target.copy(centre);
    controls.update();
    this.draw();
    this.tellTurned();
  }

  private resize() {
    const { camera, element, renderer } = this;
    const { clientWidth: width, clientHeight: height } = element;
    if (!width || !height) return;
    renderer.setSize(width, height);
    [camera.left, camera.right, camera.top, camera.bottom] = [-width / 2, width / 2, height / 2, -height / 2];
    camera.updateProjectionMatrix();
    this.fit();
    this.draw();
  }

  private click(event: MouseEvent) {
    const { down, element } = this;
    // a turn of the model ends in a click as well
    if (down && Math.hypot(event.clientX - down.x, event.clientY - down.y) > STILL) return;
    const box = element.getBoundingClientRect();
    const at = new three.Vector2(((event.clientX - box.left) / box.width) * 2 - 1, 1 - ((event.clientY - box.top) / box.height) * 2);
    this.ray.setFromCamera(at, this.camera);
    const hit = this.ray.intersectObjects(this.meshes, false)[0];
    this.hands().pick(hit ? leafOf(hit.object) : null, event.ctrlKey || event.metaKey || event.shiftKey);
  }

  /** The direction that the camera looks along and the one that is up on its picture. */
  private tellTurned() {
    const up = new three.Vector3(0, 1, 0).applyQuaternion(this.camera.quaternion);
    this.hands().turned(rounded(this.camera.getWorldDirection(new three.Vector3())), rounded(up));
  }

  private draw() {
    if (this.asked || this.gone) return;
    this.asked = requestAnimationFrame(() => {
      this.asked = 0;
      this.renderer.render(this.scene, this.camera);
    });
  }

  dispose() {
    this.gone = true;
    cancelAnimationFrame(this.asked);
    this.observer.disconnect();
    this.controls.dispose();
    for (const geometry of this.edges) geometry.dispose();
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }
}

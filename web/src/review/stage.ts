import * as three from "three";
import { aim } from "./aim";
import { dragged, spanAtTarget, stepped, zoomed } from "./camera";
import { beyond } from "./cutting";
import { hearKeys } from "./keys";
import { Lamps } from "./lights";
import { Marks } from "./marks";
import { beneath, type Camera, type Node } from "./model";
import { Parts } from "./parts";
import { Sharpness } from "./sharpness";
import { snap, type Hit } from "./snapping";
import type { Review, ReviewState } from "./state";
import * as texts from "./texts";

const STILL = 4;

/** Draws a review into an element, and hears what a hand does there. */
export class Stage {
  private readonly sharpness = new Sharpness();
  private readonly renderer: three.WebGLRenderer;
  private readonly scene = new three.Scene();
  private readonly round = new three.PerspectiveCamera();
  private readonly flat = new three.OrthographicCamera();
  private readonly lamps = new Lamps(this.scene);
  private readonly parts: Parts;
  private readonly marks: Marks;
  private readonly ray = new three.Raycaster();
  private readonly leave: (() => void)[] = [];
  private asked = 0;
  private width = 1;
  private height = 1;
  private from: { x: number; y: number; moved: boolean; pan: boolean } | null = null;
  private last: ReviewState;
  private before: Hit | null = null;

  constructor(
    private readonly element: HTMLElement,
    review: Review,
  ) {
    this.renderer = this.sharpness.renderer;
    this.renderer.localClippingEnabled = true;
    this.last = review.getState();
    this.parts = new Parts(this.last.model);
    this.scene.add(this.parts.group);
    this.marks = new Marks(element);
    element.prepend(this.renderer.domElement);
    this.leave.push(review.subscribe((state) => this.follow(state)));
    const observer = new ResizeObserver(() => this.resize());
    observer.observe(element);
    this.leave.push(() => observer.disconnect());
    this.listen();
    this.resize();
    this.dress(this.last);
  }

  private listen() {
    const canvas = this.renderer.domElement;
    const hear = <K extends keyof HTMLElementEventMap>(name: K, run: (event: HTMLElementEventMap[K]) => void, options?: AddEventListenerOptions) => {
      canvas.addEventListener(name, run, options);
      this.leave.push(() => canvas.removeEventListener(name, run));
    };
    hear("pointerdown", (event) => {
      canvas.setPointerCapture(event.pointerId);
      this.from = { x: event.clientX, y: event.clientY, moved: false, pan: event.button !== 0 || event.shiftKey };
    });
    hear("pointermove", (event) => (this.from ? this.drag(event) : this.hover(event)));
    hear("pointerup", (event) => {
      const { from } = this;
      this.from = null;
      if (from && !from.moved && event.button === 0) this.click(event);
    });
    hear("pointerleave", () => this.marks.hover(null, this.screen));
    hear("contextmenu", (event) => event.preventDefault());
    hear("dblclick", (event) => {
      const hit = this.hit(event);
      if (hit && !this.last.tool) this.last.fit(hit.node.name);
    });
    hear(
      "wheel",
      (event) => {
        event.preventDefault();
        const by = Math.exp(Math.min(Math.max(event.deltaY, -300), 300) * 0.0012);
        const size = this.size();
        this.move((camera) => (this.last.hand === "walk" ? stepped(camera, (1 - by) * size * 0.25, 0) : zoomed(camera, by)));
      },
      { passive: false },
    );
    this.leave.push(
      hearKeys(
        this.element,
        () => this.last,
        this.size,
        (how) => this.move(how),
      ),
    );
  }

  private size = () => this.last.model.box3.getSize(new three.Vector3()).length();

  private move(how: (camera: Camera) => Camera) {
    this.last.see({ camera: how(this.last.look.camera) });
  }

  private drag(event: PointerEvent) {
    const { from } = this;
    if (!from) return;
    const [dx, dy] = [event.clientX - from.x, event.clientY - from.y];
    if (!from.moved && Math.hypot(dx, dy) < STILL) return;
    Object.assign(from, { x: event.clientX, y: event.clientY, moved: true });
    const hand = from.pan ? "pan" : this.last.hand;
    const pixel = spanAtTarget(this.last.look.camera) / Math.min(this.width, this.height);
    this.move((camera) => dragged(camera, hand, dx, dy, pixel));
  }

  private pointer(event: MouseEvent): [number, number] {
    const box = this.renderer.domElement.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  }

  private hit(event: MouseEvent): Hit | null {
    const [x, y] = this.pointer(event);
    this.ray.setFromCamera(new three.Vector2((x / this.width) * 2 - 1, 1 - (y / this.height) * 2), this.camera());
    return this.nearest();
  }

  /** The same while measuring: over nothing, as in the middle of a hole, the part that the pointer came from. */
  private held(event: MouseEvent): Hit | null {
    const found = this.hit(event);
    if (found) this.before = found;
    return found ?? (this.last.tool === "points" ? this.before : null);
  }

  /** The first visible part that the ray meets. */
  private nearest(solids = this.parts.solids(), cut = this.last.look.cut): Hit | null {
    const { model } = this.last;
    const middle = model.box3.getCenter(new three.Vector3());
    for (const found of this.ray.intersectObjects(solids, false)) {
      if (beyond(cut, middle, found.point)) continue;
      const part = this.parts.parts[found.object.userData.part as number];
      const mesh = part && model.meshes[part.mesh];
      if (!part || !mesh || found.faceIndex === undefined || found.faceIndex === null) continue;
      return { node: part.node, mesh, world: model.worlds.get(part.node.name) as three.Matrix4, face: mesh.faceOf[found.faceIndex] as number, at: found.point };
    }
    return null;
  }

  /** The part that is seen first along a line, from outside the model: how a view on paper sees it, of what it shows. */
  along(point: three.Vector3, look: three.Vector3, shown: (node: Node) => boolean): Node | null {
    this.ray.set(point.clone().addScaledVector(look, -4 * this.size()), look.clone().normalize());
    const solids = this.parts.parts.filter((part) => shown(part.node)).map((part) => part.solid);
    return this.nearest(solids, null)?.node ?? null;
  }

  private hover(event: PointerEvent) {
    if (!this.last.tool) return;
    const hit = this.held(event);
    this.marks.hover(hit && snap(this.last.tool, hit, this.pointer(event), this.screen), this.screen);
  }

  private click(event: PointerEvent) {
    if (!this.last.tool) return this.last.select(this.hit(event)?.node.name ?? null);
    const hit = this.held(event);
    const pick = hit && snap(this.last.tool, hit, this.pointer(event), this.screen);
    if (pick) this.last.pick(pick);
    else this.last.set({ refusal: texts.nothingToMeasureThereClick });
  }

  private camera = (): three.PerspectiveCamera | three.OrthographicCamera => (this.last.look.camera.perspective ? this.round : this.flat);

  /** Where a point comes to lie, in pixels of the element. */
  private screen = (p: three.Vector3): [number, number] => {
    const seen = p.clone().project(this.camera());
    return [((seen.x + 1) / 2) * this.width, ((1 - seen.y) / 2) * this.height];
  };

  private follow(state: ReviewState) {
    const before = this.last;
    this.last = state;
    const { look } = state;
    if (before.look.states !== state.look.states || before.tool !== state.tool) this.before = null;
    const dressed =
      before.look.states !== look.states ||
      before.look.mode !== look.mode ||
      before.look.cut !== look.cut ||
      before.look.background !== look.background ||
      before.look.lighting !== look.lighting;
    if (dressed || before.selected !== state.selected) this.dress(state);
    else this.draw();
  }

  private dress(state: ReviewState) {
    this.lamps.set(state.look.lighting);
    this.scene.background = new three.Color(state.look.background);
    this.parts.dress(state.look, new Set(state.selected === null ? [] : beneath(state.model, state.selected)));
    this.draw();
  }

  private resize() {
    this.width = Math.max(1, this.element.clientWidth);
    this.height = Math.max(1, this.element.clientHeight);
    this.renderer.setSize(this.width, this.height);
    const aspect = this.width / this.height;
    if (Math.abs(this.last.aspect - aspect) > 1e-6) this.last.set({ aspect });
    this.draw();
  }

  private draw() {
    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => this.render());
  }

  private render() {
    aim(this.camera(), this.last, this.width / this.height);
    this.lamps.follow(this.camera());
    this.marks.show(this.last, this.screen);
    this.sharpness.draw(() => this.renderer.render(this.scene, this.camera()));
    this.element.dataset.drawn = String(Number(this.element.dataset.drawn ?? 0) + 1);
  }

  dispose() {
    cancelAnimationFrame(this.asked);
    for (const leave of this.leave) leave();
    this.parts.dispose();
    this.marks.dispose();
    this.sharpness.dispose();
  }
}

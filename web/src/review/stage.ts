import * as three from "three";
import { aim } from "./aim";
import { acted } from "./acts";
import { BUDGET, Coarse } from "./coarse";
import { Hands } from "./hands";
import { Lamps } from "./lights";
import { Marks } from "./marks";
import type { Pick } from "./measuring";
import { beneath, vector, type Camera, type Node } from "./model";
import { towardFront } from "./orienting";
import { Parts } from "./parts";
import { Picker } from "./picking";
import { PlaneHandles } from "./planeHandles";
import { Sharpness } from "./sharpness";
import { snap, type Hit } from "./snapping";
import type { Review, ReviewState } from "./state";
import * as texts from "./texts";

const STILL_AFTER = 250;

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
  private readonly handles: PlaneHandles;
  private readonly hands: Hands;
  private readonly picker: Picker;
  private readonly leave: (() => void)[] = [];
  private asked = 0;
  private width = 1;
  private height = 1;
  private last: ReviewState;
  private before: Hit | null = null;
  private readonly coarse: Coarse;
  private moving = false;
  private still = 0;

  constructor(
    private readonly element: HTMLElement,
    review: Review,
  ) {
    this.renderer = this.sharpness.renderer;
    this.renderer.localClippingEnabled = true;
    this.last = review.getState();
    this.parts = new Parts(this.last.model);
    this.picker = new Picker(this.last.model, this.parts);
    this.coarse = new Coarse(this.last.model, this.parts, this.sharpness.software ? BUDGET.software : BUDGET.graphics);
    this.scene.add(this.parts.group, this.coarse.group);
    this.marks = new Marks(element);
    element.prepend(this.renderer.domElement);
    this.leave.push(review.subscribe((state) => this.follow(state)));
    const observer = new ResizeObserver(() => this.resize());
    observer.observe(element);
    this.leave.push(() => observer.disconnect());
    this.handles = new PlaneHandles(element, () => this.last, this.screen);
    this.hands = new Hands(this.renderer.domElement, element, {
      state: () => this.last,
      move: (how) => this.move(how),
      under: (event) => this.under(event),
      hover: (event) => this.hover(event),
      click: (event) => this.click(event),
      menu: (event) => this.menu(event),
      act: (event) => acted(event, this.last),
    });
    this.parts.whenChanged(() => this.draw());
    this.last.model.pictures.changed = () => this.dress(this.last);
    this.resize();
    this.dress(this.last);
    // what is large is seen at once with few triangles, then as it is
    this.go();
  }

  private size = () => this.last.model.box3.getSize(new three.Vector3()).length();

  private move(how: (camera: Camera) => Camera) {
    this.last.see({ camera: how(this.last.look.camera) });
  }

  /** The point of the model under the pointer; beside it where the pointer meets the plane that is looked at. */
  private under(event: MouseEvent): { point: three.Vector3; on: boolean } {
    const hit = this.hit(event);
    if (hit) return { point: hit.at, on: true };
    const { target } = this.last.look.camera;
    const plane = new three.Plane().setFromNormalAndCoplanarPoint(this.picker.ray.ray.direction, vector(target));
    return { point: this.picker.ray.ray.intersectPlane(plane, new three.Vector3()) ?? vector(target), on: false };
  }

  private pointer(event: MouseEvent): [number, number] {
    const box = this.renderer.domElement.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  }

  private hit(event: MouseEvent): Hit | null {
    const [x, y] = this.pointer(event);
    this.picker.ray.setFromCamera(new three.Vector2((x / this.width) * 2 - 1, 1 - (y / this.height) * 2), this.camera());
    return this.picker.nearest(this.last.look.cuts);
  }

  /** The same while measuring: over nothing, as in the middle of a hole, the part that the pointer came from. */
  private held(event: MouseEvent): Hit | null {
    const found = this.hit(event);
    if (found) this.before = found;
    return found ?? (this.last.tool === "points" ? this.before : null);
  }

  /** The part that is seen first along a line, from outside the model: how a view on paper sees it, of what it shows. */
  along(point: three.Vector3, look: three.Vector3, shown: (node: Node) => boolean): Node | null {
    this.picker.ray.set(point.clone().addScaledVector(look, -4 * this.size()), look.clone().normalize());
    const solids = this.parts.parts.filter((part) => shown(part.node)).map((part) => part.solid);
    return this.picker.nearest([], solids)?.node ?? null;
  }

  private hover(event: PointerEvent | null) {
    if (!event || !this.last.tool) return this.marks.hover(null, this.screen);
    const pick = this.pick(event);
    this.marks.hover(pick, this.screen);
  }

  /** What the tool would take hold of. */
  private pick(event: MouseEvent): Pick | null {
    const { tool } = this.last;
    const hit = this.held(event);
    if (!hit || !tool) return null;
    return snap(tool === "face" ? "faces" : tool === "mark" ? "points" : tool, hit, this.pointer(event), this.screen);
  }

  private click(event: PointerEvent) {
    const { tool, select, set, pick } = this.last;
    if (!tool) return select(this.hit(event)?.node.name ?? null);
    const found = this.pick(event);
    if (!found) return set({ refusal: tool === "face" ? texts.clickAPlaneFace : texts.nothingToMeasureThereClick });
    if (tool === "mark") return set({ marking: { at: found.at, part: found.node }, tool: null });
    if (tool !== "face") return pick(found);
    const { look, keeper } = this.last;
    set({ tool: null, refusal: "" });
    if (found.direction) keeper.turn?.(towardFront(vector(found.direction), look.camera), true);
  }

  private menu(event: PointerEvent) {
    const name = this.hit(event)?.node.name;
    const [x, y] = this.pointer(event);
    if (name) this.last.select(name);
    this.last.set({ menu: name ? { x, y, name } : null });
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
      before.look.own !== look.own ||
      before.look.cuts !== look.cuts ||
      before.look.background !== look.background ||
      before.look.lighting !== look.lighting;
    if (dressed || before.selected !== state.selected || before.highlight !== state.highlight) this.dress(state);
    else this.draw();
    if (before.look.camera !== look.camera) this.go();
  }

  /** The model moves: until it has been still for a moment few triangles do. */
  private go() {
    if (!this.coarse.wanted) return;
    this.moving = true;
    window.clearTimeout(this.still);
    this.still = window.setTimeout(() => {
      this.moving = false;
      this.draw();
    }, STILL_AFTER);
  }

  private dress(state: ReviewState) {
    this.lamps.set(state.look.lighting);
    this.scene.background = new three.Color(state.look.background);
    this.parts.dress(state.look, new Set(state.selected === null ? [] : beneath(state.model, state.selected)), state.highlight);
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
    this.handles.show();
    if (this.moving) this.coarse.show(this.last.look);
    this.coarse.group.visible = this.moving;
    this.parts.group.visible = !this.moving;
    this.sharpness.draw(() => this.renderer.render(this.scene, this.camera()), !this.coarse.wanted, this.moving);
    this.element.dataset.drawn = String(Number(this.element.dataset.drawn ?? 0) + 1);
  }

  dispose() {
    cancelAnimationFrame(this.asked);
    this.last.model.pictures.changed = () => undefined;
    for (const leave of this.leave) leave();
    window.clearTimeout(this.still);
    this.coarse.dispose();
    this.parts.dispose();
    this.marks.dispose();
    this.handles.dispose();
    this.hands.dispose();
    this.sharpness.dispose();
  }
}

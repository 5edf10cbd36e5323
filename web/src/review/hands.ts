import * as three from "three";
import { atHeight, centredOn, dragged, nearedTo, panned, spanAtTarget, stepped, turned, zoomed } from "./camera";
import { vector, type Camera } from "./model";
import type { ReviewState } from "./state";

const STILL = 4;
const ARROWS: Record<string, [number, number]> = { arrowup: [0, -1], arrowdown: [0, 1], arrowleft: [-1, 0], arrowright: [1, 0] };
/** Where the keys of walking go: ahead, aside, up. */
const WAYS: Record<string, [number, number, number]> = {
  arrowup: [1, 0, 0],
  arrowdown: [-1, 0, 0],
  arrowleft: [0, -1, 0],
  arrowright: [0, 1, 0],
  w: [1, 0, 0],
  s: [-1, 0, 0],
  a: [0, -1, 0],
  d: [0, 1, 0],
  pageup: [0, 0, 1],
  pagedown: [0, 0, -1],
};
const STEP = 12;
const RAD = 0.0087;

/** What the hands ask of whoever draws. */
export interface Asked {
  state: () => ReviewState;
  move: (how: (camera: Camera) => Camera) => void;
  /** The point of the model under the pointer, or where the pointer meets the plane that is looked at. */
  under: (event: MouseEvent) => { point: three.Vector3; on: boolean };
  hover: (event: PointerEvent | null) => void;
  click: (event: PointerEvent) => void;
  menu: (event: PointerEvent) => void;
  /** A letter that is for the part or the whole; whether it was one. */
  act: (event: KeyboardEvent) => boolean;
}

/** Hears pointer, wheel and keys over a model, and moves its camera: to inspect it, or to walk about in it. */
export class Hands {
  private from: { x: number; y: number; moved: boolean; slide: boolean } | null = null;
  private readonly pressed = new Set<string>();
  private ticking = 0;
  private before = 0;
  private readonly leave: (() => void)[] = [];

  constructor(
    canvas: HTMLCanvasElement,
    private readonly element: HTMLElement,
    private readonly asked: Asked,
  ) {
    const hear = <K extends keyof HTMLElementEventMap>(on: HTMLElement, name: K, run: (event: HTMLElementEventMap[K]) => void, passive = true) => {
      on.addEventListener(name, run, { passive });
      this.leave.push(() => on.removeEventListener(name, run));
    };
    hear(canvas, "pointerdown", (event) => {
      element.focus({ preventScroll: true });
      canvas.setPointerCapture(event.pointerId);
      this.from = { x: event.clientX, y: event.clientY, moved: false, slide: event.button !== 0 || event.shiftKey };
    });
    hear(canvas, "pointermove", (event) => (this.from ? this.drag(event) : asked.hover(event)));
    hear(canvas, "pointerup", (event) => {
      const { from } = this;
      this.from = null;
      if (!from || from.moved) return;
      if (event.button === 0) asked.click(event);
      else asked.menu(event);
    });
    hear(canvas, "pointerleave", () => asked.hover(null));
    hear(canvas, "contextmenu", (event) => event.preventDefault(), false);
    hear(canvas, "dblclick", (event) => {
      const { point, on } = asked.under(event);
      const { tool, manner } = asked.state();
      if (on && !tool && manner === "inspect") asked.move((camera) => centredOn(camera, point));
    });
    hear(canvas, "wheel", (event) => this.wheel(event), false);
    hear(element, "keydown", (event) => this.down(event), false);
    hear(element, "keyup", (event) => this.pressed.delete(event.key.toLowerCase()));
    hear(element, "blur", () => this.pressed.clear());
  }

  private pixel = () => spanAtTarget(this.asked.state().look.camera) / Math.min(this.element.clientWidth, this.element.clientHeight);

  private hand(slide: boolean) {
    const { manner, upright } = this.asked.state();
    if (slide) return "slide";
    return manner === "walk" ? "look" : upright ? "orbit" : "free";
  }

  private drag(event: PointerEvent) {
    const { from } = this;
    if (!from) return;
    const [dx, dy] = [event.clientX - from.x, event.clientY - from.y];
    if (!from.moved && Math.hypot(dx, dy) < STILL) return;
    Object.assign(from, { x: event.clientX, y: event.clientY, moved: true });
    this.asked.move((camera) => dragged(camera, this.hand(from.slide), dx, dy, this.pixel()));
  }

  private wheel(event: WheelEvent) {
    event.preventDefault();
    const by = Math.exp(Math.min(Math.max(event.deltaY, -300), 300) * 0.0012);
    const { manner, walk, model } = this.asked.state();
    if (manner === "walk") return this.asked.move((camera) => stepped(camera, (1 - by) * walk.speed * 1000, 0, 0, walk.level));
    const { point, on } = this.asked.under(event);
    // never so near a point of the model that the camera goes through it
    const size = model.box3.getSize(new three.Vector3()).length();
    this.asked.move((camera) => {
      const near = camera.perspective && on && by < 1 && point.distanceTo(vector(camera.position)) < size * 1e-4;
      return near ? camera : nearedTo(camera, by, point);
    });
  }

  private down(event: KeyboardEvent) {
    if (event.target !== this.element || event.ctrlKey || event.metaKey || event.altKey) return;
    const key = event.key.toLowerCase();
    const { manner } = this.asked.state();
    const heard = manner === "walk" && key in WAYS ? this.go(key) : this.inspected(event, key) || this.asked.act(event);
    if (!heard) return;
    event.preventDefault();
    event.stopPropagation();
  }

  private inspected(event: KeyboardEvent, key: string): boolean {
    const arrow = ARROWS[key];
    const nearer = { "+": 0.9, "-": 1 / 0.9 }[key];
    if (!arrow && !nearer) return false;
    this.asked.move((camera) => {
      if (!arrow) return zoomed(camera, nearer as number);
      if (event.shiftKey) return panned(camera, -arrow[0] * STEP * this.pixel(), arrow[1] * STEP * this.pixel());
      return turned(camera, arrow[0] * STEP * RAD, arrow[1] * STEP * RAD, !this.asked.state().upright);
    });
    return true;
  }

  /** Walk on for as long as a key is held. */
  private go(key: string): boolean {
    const begins = !this.pressed.size;
    this.pressed.add(key);
    if (begins) {
      this.before = performance.now();
      this.stride(1 / 30);
      this.ticking = requestAnimationFrame(this.tick);
    }
    return true;
  }

  private tick = () => {
    if (!this.pressed.size) return;
    const now = performance.now();
    this.stride(Math.min(0.5, (now - this.before) / 1000));
    this.before = now;
    this.ticking = requestAnimationFrame(this.tick);
  };

  private stride(seconds: number) {
    const { walk, model } = this.asked.state();
    const by = [...this.pressed].map((key) => WAYS[key] ?? [0, 0, 0]);
    const [ahead, aside, upward] = [0, 1, 2].map((k) => by.reduce((sum, way) => sum + (way[k] as number), 0) * walk.speed * 1000 * seconds) as [
      number,
      number,
      number,
    ];
    this.asked.move((camera) => {
      const there = stepped(camera, ahead, aside, walk.level ? 0 : upward, walk.level);
      return walk.level ? atHeight(there, model.box3.min.z + walk.eye) : there;
    });
  }

  dispose() {
    cancelAnimationFrame(this.ticking);
    this.pressed.clear();
    for (const leave of this.leave) leave();
  }
}

import * as three from "three";
import { planeOf, shifted, spread, tilted, withCut, type Cut } from "./cutting";
import type { ReviewState } from "./state";
import * as texts from "./texts";

type Screen = (p: three.Vector3) => [number, number];
type Grip = "move" | "first" | "second";
const SVG = "http://www.w3.org/2000/svg";
const NAMES: Record<Grip, string> = { move: texts.movePlane, first: texts.tiltPlane, second: texts.tiltPlaneOtherWay };

/** The cutting plane that is being set, drawn over the model with handles: one moves it along its normal, two tilt it. */
export class PlaneHandles {
  private readonly svg = document.createElementNS(SVG, "svg");
  private readonly face = document.createElementNS(SVG, "polygon");
  private readonly arm = document.createElementNS(SVG, "line");
  private readonly grips = new Map<Grip, SVGCircleElement>();
  private held: { grip: Grip; x: number; y: number; cut: Cut; way: [number, number]; arm: three.Vector3 } | null = null;

  constructor(
    element: HTMLElement,
    private readonly state: () => ReviewState,
    private readonly screen: Screen,
  ) {
    this.svg.classList.add("plane-handles");
    this.svg.append(this.face, this.arm);
    for (const grip of ["first", "second", "move"] as const) {
      const circle = document.createElementNS(SVG, "circle");
      circle.setAttribute("r", grip === "move" ? "8" : "6");
      circle.classList.add(grip);
      const title = document.createElementNS(SVG, "title");
      title.textContent = NAMES[grip];
      circle.append(title);
      circle.setAttribute("aria-label", NAMES[grip]);
      circle.setAttribute("role", "button");
      circle.addEventListener("pointerdown", (event) => this.take(event, grip));
      circle.addEventListener("pointermove", (event) => this.drag(event));
      circle.addEventListener("pointerup", () => (this.held = null));
      circle.addEventListener("pointercancel", () => (this.held = null));
      this.grips.set(grip, circle);
      this.svg.append(circle);
    }
    element.append(this.svg);
  }

  private own(): Cut | undefined {
    const { look, plane } = this.state();
    return look.cuts.find((cut) => cut.along === plane);
  }

  /** Its middle, normal and edges, in the model's axes. */
  private figure(cut: Cut) {
    const { box3 } = this.state().model;
    const middle = box3.getCenter(new three.Vector3());
    const { normal, point } = planeOf(cut, middle);
    const { u, v, wide, high } = spread(cut, box3);
    return { normal, point, u: u.multiplyScalar(wide), v: v.multiplyScalar(high), reach: box3.getSize(new three.Vector3()).length() };
  }

  private place(cut: Cut): Record<Grip, three.Vector3> {
    const { normal, point, u, v, reach } = this.figure(cut);
    return { move: point.clone().addScaledVector(normal, reach * 0.09), first: point.clone().add(v), second: point.clone().add(u) };
  }

  show() {
    const cut = this.own();
    this.svg.style.display = cut ? "" : "none";
    if (!cut) return;
    const { point, u, v } = this.figure(cut);
    const corners = [
      [1, 1],
      [-1, 1],
      [-1, -1],
      [1, -1],
    ] as const;
    const at = corners.map(([a, b]) => this.screen(point.clone().addScaledVector(u, a).addScaledVector(v, b)));
    this.face.setAttribute("points", at.map(([x, y]) => `${x.toFixed(1)},${y.toFixed(1)}`).join(" "));
    const places = this.place(cut);
    const [a, b] = [this.screen(point), this.screen(places.move)];
    for (const [key, value] of Object.entries({ x1: a[0], y1: a[1], x2: b[0], y2: b[1] })) this.arm.setAttribute(key, value.toFixed(1));
    for (const [grip, circle] of this.grips) {
      const [x, y] = this.screen(places[grip]);
      circle.setAttribute("cx", x.toFixed(1));
      circle.setAttribute("cy", y.toFixed(1));
    }
  }

  private take(event: PointerEvent, grip: Grip) {
    const cut = this.own();
    if (!cut || event.button !== 0) return;
    event.stopPropagation();
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    const { normal, point, u, v, reach } = this.figure(cut);
    const from = this.place(cut)[grip];
    const step = reach * 0.01;
    const [a, b] = [this.screen(from), this.screen(from.clone().addScaledVector(normal, step))];
    const way: [number, number] = [(b[0] - a[0]) / step, (b[1] - a[1]) / step];
    this.held = { grip, x: event.clientX, y: event.clientY, cut, way, arm: grip === "second" ? u : grip === "first" ? v : point };
  }

  private drag(event: PointerEvent) {
    const { held } = this;
    if (!held) return;
    event.stopPropagation();
    const { look, see, model } = this.state();
    const square = held.way[0] ** 2 + held.way[1] ** 2;
    // a normal that points at the viewer has no way on the screen to be dragged along: up is forward
    const [wx, wy, length] = square > 1e-6 ? [held.way[0], held.way[1], square] : [0, -1, 1];
    const by = ((event.clientX - held.x) * wx + (event.clientY - held.y) * wy) / length;
    const cut = held.grip === "move" ? shifted(held.cut, model.box3, by) : tilted(held.cut, model.box3, held.grip === "first" ? 0 : 1, held.arm, by);
    see({ cuts: withCut(look.cuts, cut) });
  }

  dispose() {
    this.svg.remove();
  }
}

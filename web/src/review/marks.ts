import * as three from "three";
import { inWords, type Pick } from "./measuring";
import { vector } from "./model";
import { allReadings, type ReviewState } from "./state";

type Screen = (p: three.Vector3) => [number, number];
const SVG = "http://www.w3.org/2000/svg";

/** What is measured, drawn over the model: lines, ends, labels; and what the pointer would take hold of. */
export class Marks {
  private readonly svg = document.createElementNS(SVG, "svg");
  private readonly held = document.createElementNS(SVG, "g");
  private readonly kept = document.createElementNS(SVG, "g");
  private readonly names = new Map<string, SVGGElement>();

  constructor(element: HTMLElement) {
    this.svg.classList.add("review-marks");
    this.svg.append(this.kept, this.held);
    element.append(this.svg);
  }

  hover(pick: Pick | null, screen: Screen) {
    this.held.replaceChildren();
    if (!pick) return;
    const [x, y] = screen(vector(pick.at));
    this.held.append(ring(x, y, 6, "over"), label(x + 10, y - 8, pick.kind));
  }

  show(state: ReviewState, screen: Screen) {
    this.held.replaceChildren();
    const readings = allReadings(state);
    const marks = state.kept.filter((own) => own.kind === "mark");
    const alive = new Set([...readings, ...marks].map((own) => own.id));
    for (const [id, group] of this.names)
      if (!alive.has(id)) {
        group.remove();
        this.names.delete(id);
      }
    for (const mark of marks) {
      const [x, y] = screen(vector(mark.at));
      this.group(mark.id).replaceChildren(line([x, y], [x + 18, y - 22]), ring(x, y, 3.5, ""), label(x + 22, y - 22, mark.text || mark.name));
    }
    for (const reading of readings) {
      const group = this.group(reading.id);
      const [a, b] = [screen(vector(reading.from)), screen(vector(reading.to))];
      group.replaceChildren(line(a, b), ring(...a, 3.5, ""), ring(...b, 3.5, ""), tag((a[0] + b[0]) / 2, (a[1] + b[1]) / 2, inWords(reading, state.unit)));
    }
    for (const pick of state.picks) {
      const [x, y] = screen(vector(pick.at));
      this.held.append(ring(x, y, 5, ""));
    }
  }

  private group(id: string): SVGGElement {
    const known = this.names.get(id);
    if (known) return known;
    const group = document.createElementNS(SVG, "g");
    this.names.set(id, group);
    this.kept.append(group);
    return group;
  }

  dispose() {
    this.svg.remove();
  }
}

function made<K extends keyof SVGElementTagNameMap>(name: K, attributes: Record<string, string | number>): SVGElementTagNameMap[K] {
  const element = document.createElementNS<K>(SVG, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, String(value));
  return element;
}

const line = (a: [number, number], b: [number, number]) => made("line", { x1: a[0], y1: a[1], x2: b[0], y2: b[1] });
const ring = (cx: number, cy: number, r: number, kind: string) => made("circle", { cx, cy, r, class: kind });

function label(x: number, y: number, text: string) {
  const element = made("text", { x, y, class: "kind" });
  element.textContent = text;
  return element;
}

function tag(x: number, y: number, text: string) {
  const group = made("g", { class: "length", transform: `translate(${x} ${y})` });
  const width = text.length * 7.4 + 12;
  group.append(made("rect", { x: -width / 2, y: -11, width, height: 22, rx: 4 }));
  const words = made("text", { y: 5 });
  words.textContent = text;
  group.append(words);
  return group;
}

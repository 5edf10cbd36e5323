import * as three from "three";
import * as texts from "./texts";

/** Ambient share, where the lamp is (right, up, toward the viewer), its colour: the server's posters have the same. */
type Scheme = [number, [number, number, number], number];
const CAD: Scheme = [0.42, [-0.4, 0.5, 1], 0xffffff];
const SCHEMES: Record<string, Scheme> = {
  White: [0.45, [0.4, 0.7, 1], 0xffffff],
  Day: [0.5, [-0.5, 1, 0.7], 0xfffaeb],
  Night: [0.18, [-0.5, 1, 0.7], 0xbfccff],
  Hard: [0.2, [-0.9, 0.9, 0.6], 0xffffff],
  Primary: [0.35, [0.4, 0.7, 1], 0xfff2cc],
  Blue: [0.4, [0.4, 0.7, 1], 0xcce0ff],
  Red: [0.4, [0.4, 0.7, 1], 0xffd9cc],
  Cube: [0.4, [0.6, 0.6, 0.6], 0xffffff],
  CAD,
  Headlamp: [0.3, [0, 0, 1], 0xffffff],
  None: [1, [0, 0, 1], 0xffffff],
};

/** The words under which people choose them. */
export const LIGHTS: Record<string, string> = {
  CAD: texts.even,
  White: texts.white,
  Day: texts.day,
  Night: texts.night,
  Hard: texts.hard,
  Primary: texts.warm,
  Blue: texts.cool,
  Red: texts.red,
  Cube: texts.fromACorner,
  Headlamp: texts.fromTheViewer,
  None: texts.withoutShade,
};

export class Lamps {
  readonly ambient = new three.AmbientLight(0xffffff);
  readonly lamp = new three.DirectionalLight(0xffffff);
  private place: [number, number, number] = [0, 0, 1];

  constructor(scene: three.Scene) {
    scene.add(this.ambient, this.lamp, this.lamp.target);
  }

  set(scheme: string) {
    const [ambient, place, colour] = SCHEMES[scheme] ?? CAD;
    // a lit surface gives back its colour, undivided by π, as in the posters
    this.ambient.intensity = ambient * Math.PI;
    this.lamp.intensity = (1 - ambient) * Math.PI;
    this.ambient.color.set(colour);
    this.lamp.color.set(colour);
    this.place = place;
  }

  /** Lamps go with the viewer. */
  follow(camera: three.Camera) {
    this.lamp.position.set(...this.place).applyQuaternion(camera.quaternion);
  }
}

/** The lights that are offered; a file may have others of the standard's. */
export const OURS = ["CAD", "Day", "Hard", "Headlamp", "Night", "None"];
export const schemeOf = (name: string): Scheme => SCHEMES[name] ?? CAD;

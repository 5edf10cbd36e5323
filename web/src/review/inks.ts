import * as three from "three";

export const HATCHES = 6;
/** Which way a hatch runs, and how far apart its lines are, pixels: what lies beside another differs from it (ISO 128-50). */
const RUNS: [number, number, number][] = [
  [1, 1, 9],
  [1, -1, 9],
  [1, 1, 14],
  [1, -1, 14],
  [1, 1, 6],
  [1, -1, 6],
];

/** A flat colour with lines across it. */
export function hatched(options: three.MeshBasicMaterialParameters, number: number): three.MeshBasicMaterial {
  const material = new three.MeshBasicMaterial(options);
  const [x, y, apart] = RUNS[number % HATCHES] as [number, number, number];
  material.onBeforeCompile = (shader) => {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <opaque_fragment>",
      `float run = mod(${x.toFixed(1)} * gl_FragCoord.x + ${y.toFixed(1)} * gl_FragCoord.y, ${(apart * 1.4142).toFixed(3)});
      outgoingLight = mix(vec3(1.0), outgoingLight, run < 2.0 ? 1.0 : 0.28);
      #include <opaque_fragment>`,
    );
  };
  material.customProgramCacheKey = () => `hatch ${number % HATCHES}`;
  return material;
}

/** A part a little larger on the screen, by a share of half its size. */
export function outlining(options: three.MeshBasicMaterialParameters, by: number): three.MeshBasicMaterial {
  const material = new three.MeshBasicMaterial(options);
  material.onBeforeCompile = (shader) => {
    shader.vertexShader = shader.vertexShader.replace(
      "#include <project_vertex>",
      `#include <project_vertex>
      vec2 away = (projectionMatrix * vec4(normalMatrix * normal, 0.0)).xy;
      gl_Position.xy += away / max(length(away), 1e-6) * ${by.toFixed(4)} * gl_Position.w;`,
    );
  };
  material.customProgramCacheKey = () => `outline ${by}`;
  return material;
}

/** A line about what is selected, whatever lies before it: the part keeps its own colour. */
export class Halo {
  readonly group = new three.Group();
  private mask = new three.MeshBasicMaterial();
  private ring = new three.MeshBasicMaterial();

  show(solids: readonly three.Mesh[], colour: string, planes: three.Plane[]) {
    this.group.clear();
    this.mask.dispose();
    this.ring.dispose();
    const common = { depthTest: false, depthWrite: false, side: three.DoubleSide, clippingPlanes: planes, stencilWrite: true, stencilRef: 1 };
    this.mask = new three.MeshBasicMaterial({ ...common, colorWrite: false, stencilZPass: three.ReplaceStencilOp });
    this.ring = outlining({ ...common, color: colour, stencilFunc: three.NotEqualStencilFunc }, 0.009);
    for (const [material, order] of [
      [this.mask, 10],
      [this.ring, 11],
    ] as const)
      for (const solid of solids) {
        const mesh = new three.Mesh(solid.geometry, material);
        mesh.matrixAutoUpdate = false;
        mesh.matrix.copy(solid.matrix);
        mesh.matrixWorldNeedsUpdate = true;
        mesh.renderOrder = order;
        this.group.add(mesh);
      }
  }

  dispose() {
    this.mask.dispose();
    this.ring.dispose();
  }
}

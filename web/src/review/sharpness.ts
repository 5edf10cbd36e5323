import * as three from "three";

const STILL_AFTER = 250;
const QUICK = 0.5;

/** Whether pictures are drawn by the processor, which smooths no edges without making a turning model wait. */
function isSoftware(): boolean {
  const gl = document.createElement("canvas").getContext("webgl2");
  const told = gl?.getExtension("WEBGL_debug_renderer_info");
  const name = gl && told ? String(gl.getParameter(told.UNMASKED_RENDERER_WEBGL)) : "";
  gl?.getExtension("WEBGL_lose_context")?.loseContext();
  return /swiftshader|llvmpipe|software|basic render/i.test(name);
}

/** A renderer whose pictures are smooth at the edges: always where there is a graphics processor, else once the model is still. */
export class Sharpness {
  readonly renderer: three.WebGLRenderer;
  readonly software = isSoftware();
  private later = 0;

  constructor() {
    this.renderer = new three.WebGLRenderer({ antialias: !this.software, stencil: true });
    this.renderer.setPixelRatio(this.plain());
  }

  private plain = () => (this.software ? 1 : Math.min(2, window.devicePixelRatio || 1));

  /** Draw now as well as is quick, and again as well as it gets, where that is *better*, when nothing has moved for a while; *quick* in fewer pixels while
   * much is to be drawn. */
  draw(render: () => void, better = true, quick = false) {
    window.clearTimeout(this.later);
    const ratio = quick && this.software ? QUICK : this.plain();
    if (this.renderer.getPixelRatio() !== ratio) this.renderer.setPixelRatio(ratio);
    render();
    if (!this.software || !better) return;
    this.later = window.setTimeout(() => {
      this.renderer.setPixelRatio(2);
      render();
    }, STILL_AFTER);
  }

  dispose() {
    window.clearTimeout(this.later);
    this.renderer.dispose();
    this.renderer.forceContextLoss();
    this.renderer.domElement.remove();
  }
}

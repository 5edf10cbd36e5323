import * as three from "three";

/** The pictures that lie on parts, by name: each is there a moment after the model is. */
export class Pictures {
  private readonly textures = new Map<string, three.Texture>();
  /** Told when a picture has come. */
  changed: () => void = () => undefined;

  constructor(files: ReadonlyMap<string, Uint8Array<ArrayBuffer>>) {
    for (const [name, file] of files) this.load(name, file);
  }

  private load(name: string, file: Uint8Array<ArrayBuffer>) {
    const image = new Image();
    const address = URL.createObjectURL(new Blob([file]));
    image.onload = () => {
      URL.revokeObjectURL(address);
      const texture = new three.Texture(image);
      texture.colorSpace = three.SRGBColorSpace;
      texture.wrapS = texture.wrapT = three.RepeatWrapping;
      texture.anisotropy = 4;
      texture.needsUpdate = true;
      this.textures.set(name, texture);
      this.changed();
    };
    // one that cannot be shown leaves its parts their mean colour
    image.onerror = () => URL.revokeObjectURL(address);
    image.src = address;
  }

  get(name: string | undefined): three.Texture | null {
    return this.textures.get(name ?? "") ?? null;
  }

  /** Let go of what the graphics card has of them. */
  dispose() {
    for (const texture of this.textures.values()) texture.dispose();
  }
}

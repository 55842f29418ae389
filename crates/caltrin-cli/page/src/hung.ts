// Pictures in the place: they are loaded from the server and multiplied by the light that falls on them.

import type { Backdrop, Vec3 } from "./book";
import { dot } from "./lens";
import { reach } from "./reach";

/** The longest side that a picture is kept at. */
const SIDE = 2048;

const LINEAR = Float32Array.from({ length: 256 }, (_, v) => (v / 255 <= 0.04045 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4));

/** A picture that hangs or lies in the place. */
export class Hung {
  readonly key: string;
  readonly corner: Vec3;
  /** The dot products with the way from the corner say how far along its edges a point is. */
  readonly across: Vec3;
  readonly down: Vec3;
  readonly faces: Vec3;
  readonly lies: boolean;
  /** The opposite corner. */
  readonly foot: Vec3;

  constructor(
    backdrop: Backdrop,
    readonly image: ImageData,
  ) {
    this.key = `${backdrop.picture}/${backdrop.stamp}`;
    const { corner, across, down, lies } = backdrop;
    const [wide, high] = [dot(across, across), dot(down, down)];
    this.corner = corner;
    this.across = across.map((v) => v / wide) as Vec3;
    this.down = down.map((v) => v / high) as Vec3;
    this.faces = lies ? [0, 1, 0] : ([-across[2], 0, across[0]].map((v) => v / Math.sqrt(wide)) as Vec3);
    this.lies = lies;
    this.foot = corner.map((v, n) => v + across[n]! + down[n]!) as Vec3;
  }

  toJSON() {
    return [this.key, this.corner, this.across, this.down];
  }

  /** Its linear color at a point, 0..1 from the left and the top; null where it is more transparent than not. */
  sample(u: number, v: number): Vec3 | null {
    const { width, height, data } = this.image;
    const [x, y] = [u * width - 0.5, v * height - 0.5];
    const [left, top] = [Math.floor(x), Math.floor(y)];
    const all = [0, 0, 0, 0];
    for (let n = 0; n < 4; ++n) {
      const [dx, dy] = [n & 1, n >> 1];
      const share = (dx ? x - left : 1 - x + left) * (dy ? y - top : 1 - y + top);
      const px = Math.min(width - 1, Math.max(0, left + dx));
      const py = Math.min(height - 1, Math.max(0, top + dy));
      const at = (py * width + px) * 4;
      for (let k = 0; k < 3; ++k) all[k]! += share * LINEAR[data[at + k]!]!;
      all[3]! += (share * data[at + 3]!) / 255;
    }
    return all[3]! >= 0.5 ? [all[0]!, all[1]!, all[2]!] : null;
  }
}

/** The pictures by file and time of change, so that each is read once. */
export class Pictures {
  private readonly images = new Map<string, Promise<ImageData | null>>();

  /** Those that can be read. `known` are the backdrops that the server has now. */
  async of(backdrops: Backdrop[], known = backdrops): Promise<Hung[]> {
    const number = ({ picture }: Backdrop) => known.findIndex((one) => one.picture === picture);
    const all = await Promise.all(backdrops.map((backdrop) => this.image(backdrop, number(backdrop)).then((image) => image && new Hung(backdrop, image))));
    return all.filter((one): one is Hung => one !== null);
  }

  private image({ picture, stamp }: Backdrop, n: number): Promise<ImageData | null> {
    const key = `${picture}/${stamp}`;
    const known = this.images.get(key);
    if (known) return known;
    const asked = load(`/picture/${n}`).catch(() => null);
    this.images.set(key, asked);
    return asked;
  }
}

async function load(url: string): Promise<ImageData | null> {
  const answer = await reach(url);
  if (!answer.ok) return null;
  const bitmap = await createImageBitmap(await answer.blob(), { colorSpaceConversion: "none", premultiplyAlpha: "none" });
  const scale = Math.min(1, SIDE / Math.max(bitmap.width, bitmap.height));
  const canvas = new OffscreenCanvas(Math.max(1, Math.round(bitmap.width * scale)), Math.max(1, Math.round(bitmap.height * scale)));
  const context = canvas.getContext("2d")!;
  context.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
  return context.getImageData(0, 0, canvas.width, canvas.height);
}

// Pictures for the views by content key: codes to read, a canvas to draw.
import type { ByKind, PreviewedMap } from "@/api/client";

export interface Shown {
  key: string;
  /** RGBA codes, row 0 at the top. */
  codes: ImageData;
  picture: OffscreenCanvas;
}

export type Pictures = ByKind<Shown>;

const MOST_BYTES = 256 * 1024 * 1024;

function rgba({ codes, width, height, channels }: PreviewedMap): ImageData {
  const image = new ImageData(width, height);
  const words = new Uint32Array(image.data.buffer);
  if (!codes) return image;
  // Little-endian: alpha, blue, green, red.
  if (channels === 1)
    for (let i = 0; i < words.length; i++)
      words[i] = 0xff000000 | ((codes[i] as number) * 0x010101);
  else
    for (let i = 0, at = 0; i < words.length; i++, at += 3)
      words[i] =
        0xff000000 |
        ((codes[at + 2] as number) << 16) |
        ((codes[at + 1] as number) << 8) |
        (codes[at] as number);
  return image;
}

/** Pictures by content key, the least recently used dropped first. */
export class PictureCache {
  private readonly kept = new Map<string, Shown>();
  private bytes = 0;

  keys(): string[] {
    return [...this.kept.keys()];
  }

  take(one: PreviewedMap): Shown | undefined {
    const known = this.kept.get(one.key);
    if (known) {
      this.kept.delete(one.key);
      this.kept.set(one.key, known);
      return known;
    }
    if (!one.codes) return undefined;
    const codes = rgba(one);
    const picture = new OffscreenCanvas(one.width, one.height);
    picture.getContext("2d", { willReadFrequently: true })?.putImageData(codes, 0, 0);
    const made = { key: one.key, codes, picture };
    this.kept.set(one.key, made);
    this.bytes += codes.data.length * 2;
    for (const [key, old] of this.kept) {
      if (this.bytes <= MOST_BYTES || key === one.key) break;
      this.kept.delete(key);
      this.bytes -= old.codes.data.length * 2;
    }
    return made;
  }
}

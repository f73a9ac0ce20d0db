// The canvas of a lit view: sends the scene to its renderer and matches the size of the view.
import { type RefObject, useEffect, useRef, useState } from "react";
import type { SurfaceSpec } from "@/api/client";
import { useLatest } from "@/parts/use-latest";
import type { Pictures } from "@/places/bench/picture-cache";
import type { EnvironmentView, Standing } from "./choices";
import { type Keys, lightMaps, type MapCodes, type MeshData } from "./drawing/messages";
import { beginDrawing, type Drawer } from "./drawing/start-renderer";
import type { Light } from "./light-dial";
import type { Eye } from "./shared-camera";
import { useCamera } from "./use-camera";

/** A model: its mesh, the material that shows the set, and the materials of other parts. */
export interface ModelOnStage {
  mesh: MeshData;
  material: string | null;
  others: Record<string, Pictures>;
  mark: [number, number, number] | null;
}

interface Props {
  shape: Standing;
  aspect: number;
  repeat: number;
  displaced: boolean;
  surface: SurfaceSpec;
  pictures: Pictures;
  /** Required if the geometry is a model. */
  model: ModelOnStage | null;
  light: Light;
  around: EnvironmentView;
  /** Views that share a camera rotate together. */
  eye?: Eye;
  /** Requests a picture of a width in pixels, with the view's proportions. */
  camera?: RefObject<TakePicture | null>;
  /** Called after each frame with the content keys of the displayed maps. */
  onDrawn: (keys: string) => void;
}

export type TakePicture = (width: number) => Promise<Blob>;

/** Content keys of the displayed maps. */
export function keysOf(pictures: Pictures): Keys {
  return Object.fromEntries(
    lightMaps.flatMap((kind) => {
      const key = pictures[kind]?.key;
      return key ? [[kind, key]] : [];
    }),
  );
}

interface Size {
  width: number;
  height: number;
  density: number;
}

export function Stage({ pictures, eye, onDrawn, camera, ...shown }: Props) {
  const { shape, aspect, repeat, displaced, surface, light, around, model } = shown;
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<Size | null>(null);
  const [drawer, setDrawer] = useState<Drawer | null>(null);
  const place = useCamera(box, shape, eye);
  /** Content keys of the previous view, whose codes the renderer has. */
  const there = useRef(new Set<string>());
  const number = useRef(0);
  const tell = useLatest(onDrawn);

  useEffect(() => {
    const holder = box.current;
    if (!holder) return;
    // A canvas can be transferred only once, so each renderer gets its own.
    const canvas = document.createElement("canvas");
    canvas.className = "absolute inset-0 size-full"; // its size doesn't affect the layout
    holder.append(canvas);
    let taken: ((picture: Blob | null) => void) | null = null;
    const begun = beginDrawing(canvas, (message) => {
      if (message.kind === "picture") return taken?.(message.picture);
      canvas.dataset.drawn = String(message.number);
      tell.current(message.keys);
    });
    if (camera)
      camera.current = (width) =>
        new Promise((found, failed) => {
          taken = (picture) =>
            picture ? found(picture) : failed(new Error("The picture couldn't be rendered."));
          const { clientWidth, clientHeight } = holder;
          begun.picture(width, Math.max(1, Math.round((width * clientHeight) / clientWidth)));
        });
    there.current = new Set();
    setDrawer(begun);
    const watch = new ResizeObserver(() => {
      const { clientWidth: width, clientHeight: height } = holder;
      const density = Math.min(2, window.devicePixelRatio);
      if (width > 0 && height > 0) setSize({ width, height, density });
    });
    watch.observe(holder);
    return () => {
      watch.disconnect();
      begun.end();
      canvas.remove();
    };
  }, [tell, camera]);

  const mesh = model?.mesh;
  useEffect(() => {
    if (drawer && mesh) drawer.give(mesh);
  }, [drawer, mesh]);

  useEffect(() => {
    if (!drawer || !size) return;
    const maps = keysOf(pictures);
    const fresh: MapCodes[] = [];
    const seen = new Set<string>();
    const bring = (of: string, some: Pictures) => {
      for (const [kind, key] of Object.entries(keysOf(some))) {
        const held = `${of} ${kind} ${key}`;
        seen.add(held);
        const one = some[kind as keyof Keys];
        if (!one || there.current.has(held)) continue;
        const { width, height, data } = one.codes;
        fresh.push({ key, width, height, rgba: data });
      }
    };
    bring("", pictures);
    const others: Record<string, Keys> = {};
    for (const [name, some] of Object.entries(model?.others ?? {})) {
      bring(name, some);
      others[name] = keysOf(some);
    }
    there.current = seen;
    if (fresh.length > 0) performance.mark("sieve:lit");
    const standing = model && {
      key: model.mesh.key,
      material: model.material,
      others,
      mark: model.mark,
    };
    const view = { shape, aspect, repeat, displaced, surface, light, around, model: standing };
    number.current += 1;
    drawer.show({ ...view, number: number.current, maps, eye: place, ...size }, fresh);
    box.current?.querySelector("canvas")?.setAttribute("data-wanted", String(number.current));
  }, [
    drawer,
    size,
    pictures,
    place,
    shape,
    aspect,
    repeat,
    displaced,
    surface,
    light,
    around,
    model,
  ]);

  return (
    <div
      ref={box}
      role="img"
      aria-label={shape === "model" ? "Material on the model" : `Material on a ${shape}`}
      className="relative size-full touch-none overflow-hidden"
    />
  );
}

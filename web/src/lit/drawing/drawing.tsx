// Renders views on a canvas, in a worker or on the page, with the same code and messages.
import { createRoot, extend, type ReconcilerRoot } from "@react-three/fiber";
import type { ReactNode } from "react";
import * as THREE from "three";
import { drawsInSoftware } from "../renderer";
import type { FromDrawing, MapCodes, MeshData, View } from "./messages";
import { Scene } from "./scene";
import { TextureStore, type Textures } from "./textures";

// Classes that the scene description uses.
extend({
  Color: THREE.Color,
  DirectionalLight: THREE.DirectionalLight,
  Group: THREE.Group,
  Mesh: THREE.Mesh,
  MeshBasicMaterial: THREE.MeshBasicMaterial,
  SphereGeometry: THREE.SphereGeometry,
});

type Canvas = HTMLCanvasElement | OffscreenCanvas;

export class Drawing {
  private readonly root: ReconcilerRoot<Canvas>;
  private readonly textures = new TextureStore();
  private readonly others = new Map<string, TextureStore>();
  private worn: Record<string, Textures> = {};
  private mesh: MeshData | null = null;
  private configured: Promise<unknown> = Promise.resolve();
  private size = "";

  private last: ReactNode = null;

  constructor(
    private readonly canvas: Canvas,
    private readonly tell: (message: FromDrawing) => void,
  ) {
    this.root = createRoot(canvas);
  }

  /**
   * Render the last view once at another size and return a PNG; the displayed canvas is unchanged.
   */
  async picture(width: number, height: number) {
    const state = this.root.render(this.last).getState();
    const { gl, scene, camera, size, viewport } = state;
    const eye = (camera as THREE.PerspectiveCamera).clone();
    eye.aspect = width / height;
    eye.updateProjectionMatrix();
    gl.setPixelRatio(1);
    gl.setSize(width, height, false);
    gl.render(scene, eye);
    const picture = await blobOf(this.canvas);
    gl.setPixelRatio(viewport.dpr);
    gl.setSize(size.width, size.height, false);
    state.invalidate();
    this.tell({ kind: "picture", picture });
  }

  give(mesh: MeshData) {
    this.mesh = mesh;
  }

  /** Textures of the model's other materials; the same object while they are unchanged. */
  private othersOf(view: View, fresh: MapCodes[]): Record<string, Textures> {
    const wanted = view.model?.others ?? {};
    for (const [name, store] of this.others)
      if (!(name in wanted)) {
        store.dispose();
        this.others.delete(name);
      }
    const made: Record<string, Textures> = {};
    for (const [name, keys] of Object.entries(wanted)) {
      const store = this.others.get(name) ?? new TextureStore();
      this.others.set(name, store);
      made[name] = store.show(keys, fresh);
    }
    const names = Object.keys(made);
    const same =
      names.length === Object.keys(this.worn).length &&
      names.every((name) => made[name] === this.worn[name]);
    if (!same) this.worn = made;
    return this.worn;
  }

  show(view: View, fresh: MapCodes[]) {
    const textures = this.textures.show(view.maps, fresh);
    const others = this.othersOf(view, fresh);
    const mesh = this.mesh?.key === view.model?.key ? this.mesh : null;
    const size = `${view.width} ${view.height} ${view.density}`;
    if (size !== this.size) {
      this.size = size;
      this.configured = this.root.configure({
        frameloop: "demand",
        dpr: view.density,
        size: { width: view.width, height: view.height, top: 0, left: 0 },
        camera: { fov: 30, position: view.eye, near: 0.1, far: 50 },
        gl: {
          antialias: !drawsInSoftware(),
          preserveDrawingBuffer: true,
          toneMapping: THREE.NeutralToneMapping,
        },
      });
    }
    void this.configured.then(() => {
      this.last = (
        <Scene view={view} mesh={mesh} textures={textures} others={others} tell={this.tell} />
      );
      this.root.render(this.last);
    });
  }

  end() {
    this.root.unmount();
    this.textures.dispose();
    for (const store of this.others.values()) store.dispose();
  }
}

function blobOf(canvas: Canvas): Promise<Blob | null> {
  if ("convertToBlob" in canvas) return canvas.convertToBlob({ type: "image/png" });
  return new Promise((found) => canvas.toBlob(found, "image/png"));
}

// Draws views on a canvas, in a worker or in the page: the same code, told by the same messages.
import { createRoot, extend, type ReconcilerRoot } from "@react-three/fiber";
import * as THREE from "three";
import { drawsInSoftware } from "../renderer";
import type { FromDrawing, MapCodes, View } from "./messages";
import { Scene } from "./scene";
import { TextureStore } from "./textures";

// What the scene is written in.
extend({ Color: THREE.Color, DirectionalLight: THREE.DirectionalLight, Mesh: THREE.Mesh });

type Canvas = HTMLCanvasElement | OffscreenCanvas;

export class Drawing {
  private readonly root: ReconcilerRoot<Canvas>;
  private readonly textures = new TextureStore();
  private configured: Promise<unknown> = Promise.resolve();
  private size = "";

  constructor(
    canvas: Canvas,
    private readonly tell: (message: FromDrawing) => void,
  ) {
    this.root = createRoot(canvas);
  }

  show(view: View, fresh: MapCodes[]) {
    const textures = this.textures.show(view.maps, fresh);
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
    void this.configured.then(() =>
      this.root.render(<Scene view={view} textures={textures} tell={this.tell} />),
    );
  }

  end() {
    this.root.unmount();
    this.textures.dispose();
  }
}

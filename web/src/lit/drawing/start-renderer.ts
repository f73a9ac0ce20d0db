// Start a renderer: in a worker if the browser supports it, else on the page.
import type { FromDrawing, MapCodes, MeshData, ToDrawing, View } from "./messages";

export interface Drawer {
  show: (view: View, fresh: MapCodes[]) => void;
  /** Render the last view at another size; calls back when the image is complete. */
  picture: (width: number, height: number) => void;
  /** Send a model, which later views refer to by its key; only the last one is kept. */
  give: (mesh: MeshData) => void;
  end: () => void;
}

/** Start rendering on a new canvas. */
export function beginDrawing(
  canvas: HTMLCanvasElement,
  onMessage: (message: FromDrawing) => void,
): Drawer {
  const can = "transferControlToOffscreen" in HTMLCanvasElement.prototype;
  return can ? inWorker(canvas, onMessage) : inPage(canvas, onMessage);
}

function inWorker(canvas: HTMLCanvasElement, onMessage: (message: FromDrawing) => void): Drawer {
  const worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
  const tell = (message: ToDrawing, given: Transferable[] = []) =>
    worker.postMessage(message, given);
  worker.addEventListener("message", ({ data }: MessageEvent<FromDrawing>) => onMessage(data));
  const far = canvas.transferControlToOffscreen();
  tell({ kind: "begin", canvas: far }, [far]);
  canvas.dataset.drawnBy = "worker";
  return {
    show: (view, fresh) => tell({ kind: "show", view, fresh }),
    give: (mesh) => tell({ kind: "mesh", mesh }),
    picture: (width, height) => tell({ kind: "picture", width, height }),
    end: () => worker.terminate(),
  };
}

function inPage(canvas: HTMLCanvasElement, onMessage: (message: FromDrawing) => void): Drawer {
  let ended = false;
  canvas.dataset.drawnBy = "page";
  const drawing = import("./drawing").then(({ Drawing }) => new Drawing(canvas, onMessage));
  return {
    show: (view, fresh) => void drawing.then((one) => ended || one.show(view, fresh)),
    give: (mesh) => void drawing.then((one) => ended || one.give(mesh)),
    picture: (width, height) =>
      void drawing.then((one) => {
        if (!ended) void one.picture(width, height);
      }),
    end: () => {
      ended = true;
      void drawing.then((one) => one.end());
    },
  };
}

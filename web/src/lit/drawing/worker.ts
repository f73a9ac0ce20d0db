// The renderer in a worker, so that uploads and shader compilation don't block the page.
import { Drawing } from "./drawing";
import type { FromDrawing, ToDrawing } from "./messages";

let drawing: Drawing | null = null;

self.addEventListener("message", ({ data }: MessageEvent<ToDrawing>) => {
  if (data.kind === "begin")
    drawing = new Drawing(data.canvas, (message: FromDrawing) => self.postMessage(message));
  else if (data.kind === "mesh") drawing?.give(data.mesh);
  else if (data.kind === "picture") drawing?.picture(data.width, data.height);
  else drawing?.show(data.view, data.fresh);
});

// How long the graphics hardware (or what stands in for it) takes for a frame of the lit window.
import { addAfterEffect, useThree } from "@react-three/fiber";
import { useEffect } from "react";
import { frameTook } from "./frame-took";

/** Measures every frame by a fence behind its commands; nothing waits for it. */
export function FrameTime() {
  const { gl } = useThree();
  useEffect(() => {
    const context = gl.getContext() as WebGL2RenderingContext;
    let fence: WebGLSync | null = null;
    let began = 0;
    const poll = () => {
      if (!fence) return;
      if (context.getSyncParameter(fence, context.SYNC_STATUS) === context.SIGNALED) {
        frameTook.last = performance.now() - began;
        context.deleteSync(fence);
        fence = null;
      } else setTimeout(poll, 8);
    };
    const stop = addAfterEffect(() => {
      if (fence || context.isContextLost()) return;
      began = performance.now();
      fence = context.fenceSync(context.SYNC_GPU_COMMANDS_COMPLETE, 0);
      context.flush();
      setTimeout(poll, 4);
    });
    return () => {
      stop();
      fence = null;
    };
  }, [gl]);
  return null;
}

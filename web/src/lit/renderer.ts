// Detection of software rendering, which uses simpler settings.
let known: boolean | null = null;

/** Whether WebGL is rendered in software. Determined once, with a separate context. */
export function drawsInSoftware(): boolean {
  if (known !== null) return known;
  const context = new OffscreenCanvas(1, 1).getContext("webgl2");
  const names = context?.getExtension("WEBGL_debug_renderer_info");
  const name = names ? String(context?.getParameter(names.UNMASKED_RENDERER_WEBGL)) : "";
  context?.getExtension("WEBGL_lose_context")?.loseContext();
  known = /swiftshader|llvmpipe|softpipe|software|basic render/i.test(name);
  return known;
}

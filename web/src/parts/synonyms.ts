// Synonyms of the trade for the command search.

const GROUPS = [
  "deliver delivery deliveries export output publish",
  "import add open load upload",
  "delete remove trash discard",
  "restore recover undelete",
  "base color albedo diffuse saturation hue tint",
  "roughness gloss glossiness smoothness",
  "ambient occlusion ao",
  "normal normals bump y+ y- directx opengl green tangent",
  "height displacement depth bump parallax",
  "invert inverted negate flip",
  "opacity alpha transparency cutout",
  "emissive emission glow",
  "metallic metalness metal",
  "environment environments hdri panorama ibl lighting sky",
  "webhook webhooks notification notifications callback",
  "checklist validate validation warnings errors problems",
  "recipe recipes preset presets settings",
  "target targets preset presets profile engine renderer convention packing orm channels",
  "delight lighting shadows",
  "blemishes clone heal stamp",
  "tileable seamless tiling seams",
  "model mesh bake baking uv high-poly low-poly",
  "undo revert",
  "selection select",
].map((group) => group.split(" "));

/** All synonyms of a word, including itself. */
export function synonymsOf(word: string): string[] {
  const same = GROUPS.filter((group) => group.includes(word)).flat();
  return [word, ...same];
}

"""From a texture set to pixels: plan, prepare, evaluate."""

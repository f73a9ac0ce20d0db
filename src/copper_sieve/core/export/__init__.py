"""From a texture set to verified files in a folder: plan, pack, write, assay, swap in."""

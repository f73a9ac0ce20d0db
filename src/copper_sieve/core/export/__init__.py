"""From a texture set to proven files in a folder: plan, pack, write, assay, put in place."""

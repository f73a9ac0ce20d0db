"""Data that people write, keep and exchange: sets, recipes, target presets, manifests."""

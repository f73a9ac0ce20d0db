"""Base color, emission, opacity, and masks from colors and ranges."""

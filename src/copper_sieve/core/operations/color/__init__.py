"""Base color, emitted light, opacity, and masks out of colors and ranges."""

"""Appearance of materials: reference shader, environments, renderings of models."""

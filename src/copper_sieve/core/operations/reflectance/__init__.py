"""Reflectance: metallic, roughness, specular, and conversion of both workflows."""

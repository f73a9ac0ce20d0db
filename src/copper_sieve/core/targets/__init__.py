"""Conventions of renderers and engines, as data."""

"""Detect the map kind of an image from its name and its values, with a reason for each result."""

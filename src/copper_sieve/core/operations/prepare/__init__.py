"""Preparation steps of a set's pictures before maps are derived."""

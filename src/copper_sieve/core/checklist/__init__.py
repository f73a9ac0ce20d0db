"""Checklist rules: detected problems of a set with measurements and a fix."""

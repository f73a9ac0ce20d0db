"""One module per file format, each with its `CODEC`; new modules are found automatically.

These modules are imported by everything that names a format, so libraries are only imported
inside functions.
"""

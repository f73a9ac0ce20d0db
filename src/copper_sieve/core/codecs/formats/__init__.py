"""One module for each file format, each with its `CODEC`; a new one is found by being here.

They are imported by everything that names a format, so what a library does is imported where it is
called.
"""

"""The Tray: all sets of a project at once, and what is done to many of them together."""

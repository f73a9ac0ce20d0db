"""The Tray: all sets of a project, and changes of several sets."""

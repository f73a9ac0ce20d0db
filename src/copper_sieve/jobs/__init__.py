"""Tasks of the task queue; they only call services."""

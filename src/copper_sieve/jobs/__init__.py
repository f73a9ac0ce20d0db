"""The task queue's tasks: thin, they call services."""

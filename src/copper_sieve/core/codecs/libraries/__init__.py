"""The libraries that decode and encode pictures, each in one module."""

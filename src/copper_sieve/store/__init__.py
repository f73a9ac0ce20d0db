"""Persistent data in PostgreSQL, and caches that may be deleted; SQL lives in .sql files."""

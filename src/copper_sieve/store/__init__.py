"""What must not be lost (PostgreSQL) and what may be (the cache); SQL lives in .sql files."""

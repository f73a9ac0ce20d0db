"""The rules and all computation, independent of the web interface and the database."""

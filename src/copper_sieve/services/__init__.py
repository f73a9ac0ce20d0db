"""Use cases: what people do, each in its transactions; the web and the worker call these."""

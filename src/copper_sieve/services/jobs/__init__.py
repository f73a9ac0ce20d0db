"""Jobs: work that takes longer than a request may, created here and carried out by workers."""

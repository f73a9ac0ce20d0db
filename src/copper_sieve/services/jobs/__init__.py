"""Jobs: work that takes longer than a request may, asked for here and carried out by workers."""

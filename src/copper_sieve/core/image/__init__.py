"""Pictures in memory: what their numbers mean, how they are encoded, resized and taken apart."""

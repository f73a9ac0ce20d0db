"""Operations that derive a height map, and shared code."""

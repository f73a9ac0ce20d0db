"""Operations that derive or blend normal maps."""

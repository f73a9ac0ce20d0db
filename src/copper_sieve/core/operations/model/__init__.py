"""Maps baked from the linked model or its high-poly model."""

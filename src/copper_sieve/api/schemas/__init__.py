"""What goes in and out, as Pydantic models; input forbids unknown fields."""

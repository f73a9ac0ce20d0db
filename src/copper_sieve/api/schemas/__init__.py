"""Requests and responses as Pydantic models; requests reject unknown fields."""

"""Webhooks: receivers of signed messages about deliveries that have ended."""

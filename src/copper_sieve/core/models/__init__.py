"""Stored and exchanged data: texture sets, recipes, source cards, manifests."""

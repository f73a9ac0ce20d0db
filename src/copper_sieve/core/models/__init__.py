"""What people write, keep and exchange as data: texture sets, recipes, source cards, manifests."""

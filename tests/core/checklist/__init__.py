"""Sets looked over."""

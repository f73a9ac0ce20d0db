"""What each renderer or engine wants, as data."""

"""One router per noun."""

"""Contact sheets: a delivery as others are to see it, on one page and as one picture."""

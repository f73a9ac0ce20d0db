"""Contact sheets: an overview of a delivery, as a page and as a picture."""

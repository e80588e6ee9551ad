"""Files, and what is made of them."""

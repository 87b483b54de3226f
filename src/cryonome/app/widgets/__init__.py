"""Parts that pages are made of."""

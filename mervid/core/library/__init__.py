"""A library as values: words looked for, filters, tags and what can be done to them."""

"""Controllers: the devices there are, and the bytes that come from them and go to them."""

"""One module per open format: reading and writing, from and to the values of `core`."""

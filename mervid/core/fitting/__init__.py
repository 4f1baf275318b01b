"""From heard beats to a grid, and how far the one lies from the other."""

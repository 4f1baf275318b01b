"""Sound out of the window: a player, its output, and the process that fills it."""

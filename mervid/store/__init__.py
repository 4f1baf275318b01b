"""What is kept: tracks, evidence, preparations and their undo history, in one SQLite database."""

"""The stages of the work; each turns its views' intentions into edits."""

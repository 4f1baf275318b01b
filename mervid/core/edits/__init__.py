"""Named edits: pure functions from preparation to preparation."""

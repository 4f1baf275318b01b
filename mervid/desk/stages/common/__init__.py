"""Commands that every stage knows."""

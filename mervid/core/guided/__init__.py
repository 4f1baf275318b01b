"""Hearing again under what a person said, tapped or would rather have."""

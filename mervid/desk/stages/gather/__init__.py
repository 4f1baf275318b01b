"""Gather: bring recordings in, find them, see what waits for a person, make the lists for the gig."""

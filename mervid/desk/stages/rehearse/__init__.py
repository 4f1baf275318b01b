"""Rehearse: two tracks over each other, by ear and by figure."""

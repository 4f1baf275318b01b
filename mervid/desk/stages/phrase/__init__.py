"""Phrase: the form of the track, cues on it and their loops, recipes."""

"""Phrase: the form of the track, cues and loops on it, recipes."""

"""What Mervid knows of music: pure functions and immutable values, no window, no files beyond decoding.

A track's data walks down this list and never turns back; each package imports only from those above it:
maths, model, sound, hearing, fitting, guided, form, cues, edits, siblings, findings, playing.
"""

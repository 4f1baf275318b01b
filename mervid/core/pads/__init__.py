"""Controllers that send MIDI: what their messages mean, which pad does what, and which of them are lit."""

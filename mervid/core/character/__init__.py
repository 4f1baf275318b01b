"""What a track is like as a whole: its key, its drive, its fingerprint."""

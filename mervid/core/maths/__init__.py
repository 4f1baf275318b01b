"""Mathematics that knows nothing of music."""

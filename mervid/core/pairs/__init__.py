"""Two tracks together: where they meet, on what clock, how far their beats fall apart, and which pairs are safe."""

"""What Mervid knows about music, on plain arrays and values: no Qt, no files beyond audio decoding."""

"""What a recording tells: sentences with figures, and fixes."""

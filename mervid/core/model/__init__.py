"""The values a preparation is made of: grid, cues, form, tolerance, hints, and the preparation itself."""

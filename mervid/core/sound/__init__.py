"""From a file to samples, and what the samples themselves tell."""

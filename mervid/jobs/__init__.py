"""Analysis in worker processes: progress, cancel, and what is left after a kill."""

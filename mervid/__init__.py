"""Mervid prepares recordings for mixing: it hears beats, fits grids and shows where time drifts."""

__version__ = "0.1.0"

"""Align: tempo, pins, downbeats, drift."""

"""Painted views. They draw values and emit intentions; nothing here computes music."""

"""Deliver: what leaves the program."""

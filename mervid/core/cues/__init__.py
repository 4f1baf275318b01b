"""Cues, recipes that place them, and what a player can hold."""

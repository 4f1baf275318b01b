"""Phrases: where they begin, which are alike, what each is for."""

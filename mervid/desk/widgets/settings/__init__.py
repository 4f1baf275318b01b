"""The settings: a dialog of pages in plain words, each setting with what it does."""

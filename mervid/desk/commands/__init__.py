"""What can be asked for, by key, menu or plain words."""

"""The desktop around the window: media keys, notices, and staying awake, all over D-Bus and all optional."""

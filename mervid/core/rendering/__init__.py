"""Sound on another clock: at another speed, at its own pitch or not, and two recordings as one."""

"""What leaves the program for a player: what it can do, what would be lost on it, and names that its disk can hold."""

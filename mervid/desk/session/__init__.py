"""What is open and what can be done to it. No widgets here."""

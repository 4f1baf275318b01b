"""A drafting table, not a cockpit: paper, ink, one accent for a hand and one for attention."""

"""Parts of the window that belong to no one stage."""

"""Keys, and how values go from one to the next."""

"""Clean plates: the scene without its subject."""

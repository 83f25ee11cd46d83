"""Motion on top of keys: one file a kind."""

"""Ready entrances and exits: one file a move."""

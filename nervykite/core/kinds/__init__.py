"""The families of which a new one is one file: sources, finishes, cards, moves, behaviours, arrangements, hits."""

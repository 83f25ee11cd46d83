"""Checks of the program's own words: names that mean one thing, notes that say what it is, nothing long or unused."""

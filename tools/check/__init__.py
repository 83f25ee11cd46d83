"""Checks of the program's own words: names that mean one thing, notes that say what a thing is, nothing unused."""

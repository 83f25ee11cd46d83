"""The checks, one file for each sort of snag."""

"""The sounds of cues: hits, by what they are for, and what lies on the shelf."""

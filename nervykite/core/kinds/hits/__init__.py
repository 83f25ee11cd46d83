"""What cues sound like: hits, by what they are for, and what lies on the shelf."""

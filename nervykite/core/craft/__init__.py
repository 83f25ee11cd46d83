"""The stuff that kinds are made of: finishes, letters, sounds. Arrays in, arrays out."""

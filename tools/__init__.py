"""What makes and measures the program and is no part of it: its film, its measurements, what networks learn from."""

"""How layers lie in time, one file each."""

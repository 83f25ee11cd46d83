"""The arrangements of layers in time, one file each."""

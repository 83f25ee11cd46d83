"""A matte taken along through the frames of a shot."""

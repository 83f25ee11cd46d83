"""From the document to a frame: evaluate, make sprites, draw."""

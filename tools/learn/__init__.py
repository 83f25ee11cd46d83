"""The learning of the judge: scenes, strokes as somebody would draw them, and the network's training.

Nothing of it is needed to run the program; it is here so that the network can be made again, and better.
"""

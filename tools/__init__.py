"""The tools that make and measure the program and are no part of it: its film, its measurements, what networks learn
from.
"""

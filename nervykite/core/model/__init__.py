"""The documents: projects, shots, holds, layers. Pydantic, no I/O.

Frames are integers, rates exact fractions, distances pixels of the thing they are measured on, angles
degrees clockwise on screen.
"""

from .document import Document, Hold, Shot
from .layers import Key, Layer, Tie
from .matte import Found, Mark, Matte, Node, Piece, Raster, Shape, Stop, Travel
from .project import GroundItem, Project

__all__ = [
    "Document", "Found", "GroundItem", "Hold", "Key", "Layer", "Mark", "Matte", "Node", "Piece", "Project", "Raster",
    "Shape", "Shot", "Stop", "Tie", "Travel",
]  # fmt: skip

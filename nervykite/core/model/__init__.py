"""The documents: projects, shots, holds, layers. Pydantic, no I/O.

Frames are integers, rates exact fractions, distances pixels of the thing they are measured on, angles
degrees clockwise on screen.
"""

from .document import Document, Hold, Shot
from .layers import Key, Layer, Tie
from .matte import Matte, Node, Piece
from .project import GroundItem, Project

__all__ = ["Document", "GroundItem", "Hold", "Key", "Layer", "Matte", "Node", "Piece", "Project", "Shot", "Tie"]

"""The documents: projects, shots, holds, layers. Pydantic, no I/O.

Frames are integers, rates exact fractions, distances pixels of the thing they are measured on, angles
degrees clockwise on screen.
"""

from .arrangement import Arrangement
from .document import Asset, Document, Hold, Shot
from .finish import FinishKind
from .keys import Easing, Key
from .layers import Finish, Layer, Pose
from .matte import Found, Mark, Matte, Node, Piece, Raster, Shape, Stop, Travel
from .project import GroundItem, Project
from .source import Framing, Source
from .ties import Tie, Tied

__all__ = [
    "Arrangement", "Asset", "Document", "Easing", "Finish", "FinishKind", "Found", "Framing", "GroundItem", "Hold",
    "Key", "Layer", "Mark", "Matte", "Node", "Piece", "Pose", "Project", "Raster", "Shape", "Shot", "Source", "Stop",
    "Tie", "Tied", "Travel",
]  # fmt: skip

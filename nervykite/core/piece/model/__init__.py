"""The documents: projects, shots, holds, layers. Pydantic, no I/O.

Frames are integers, rates exact fractions, distances pixels of the thing they are measured on, angles
degrees clockwise on screen.
"""

from .arrangement import Arrangement
from .beat_grid import Counted
from .behaviour import Behaviour, BehaviourKind
from .cue import Cue, CueTie, Sounding
from .document import Asset, Document, Hold
from .finish import FinishKind, When
from .framing import Framing
from .keys import Bend, Bezier, Easing, Key, Spring, Stay, Steps
from .layers import Blur, Finish, Layer, Pose, Way
from .matte import Found, Mark, Matte, Node, Piece, Raster, Shape, Stop, Travel
from .mixing import Duck, Fader, LinePoint, Loudness, Mix
from .move import MoveKind, PutOn
from .project import GroundItem, Project
from .recipe import Caught, Made, Recipe
from .shot import Shot
from .source import Source
from .ties import Tie, Tied
from .track import Fix, Pin, Steady, Track

__all__ = [
    "Arrangement", "Asset", "Behaviour", "BehaviourKind", "Bend", "Bezier", "Blur", "Caught", "Counted", "Cue",
    "CueTie", "Document", "Duck", "Easing", "Fader", "Finish", "FinishKind", "Fix", "Found", "Framing", "GroundItem",
    "Hold", "Key", "Layer", "LinePoint", "Loudness", "Made", "Mark", "Matte", "Mix", "MoveKind", "Node", "Piece",
    "Pin", "Pose", "Project", "PutOn", "Raster", "Recipe", "Shape", "Shot", "Sounding", "Source", "Spring", "Stay",
    "Steady", "Steps", "Stop", "Tie", "Tied", "Track", "Travel", "Way", "When",
]  # fmt: skip

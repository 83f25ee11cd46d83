"""The demo project: three frozen leaps behind a live one, made from the Dune run through the ordinary edits."""

from pathlib import Path

import av
import cv2
import numpy as np

from ..core.edits import ChangeLayer, ChangeMatte, Edit, HoldFrame, SetKey, SetLoop
from ..core.model import Document, Key, Matte, Node, Piece, Project
from ..core.model.base import new_id
from ..core.model.layers import Easing, Finish
from ..core.motion.easing import PRESETS
from ..studio import Studio

FOOTAGE = Path(__file__).parent / "footage"
NAME = "Gull Point relay"
LEAPS = (46, 58, 70)


def truth_alpha(shot: str, frame: int) -> np.ndarray:
    """The subject's true alpha in a frame of a demo shot: float32 (h, w), 0…1."""
    with av.open(str(FOOTAGE / "truth" / f"{shot}-alpha.mp4")) as file:
        for number, picture in enumerate(file.decode(video=0)):
            if number == frame:
                grey = picture.to_ndarray(format="gray8").astype(np.float32)
                return np.clip((grey - 16) / 219 if grey.max() < 245 else grey / 255, 0, 1)
    raise IndexError(frame)


def drawn_around(alpha: np.ndarray, tolerance: float = 1.3) -> list[Piece]:
    """Pen pieces around an alpha (h, w), as a careful hand would draw them: outlines, then the gaps cut away."""
    grown = cv2.resize(alpha, None, fx=4, fy=4, interpolation=cv2.INTER_CUBIC)
    contours, tree = cv2.findContours((grown > 0.5).astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    pieces, gaps = [], []
    for contour, (_next, _before, _child, parent) in zip(contours, tree[0], strict=True):
        if cv2.contourArea(contour) < 16 * (60 if parent < 0 else 25):
            continue
        points = cv2.approxPolyDP(contour, tolerance * 4, True)[:, 0].astype(float) / 4 + 0.125
        if len(points) < 3:
            continue
        nodes = [_node(*three) for three in zip(np.roll(points, 1, 0), points, np.roll(points, -1, 0), strict=True)]
        if parent < 0:
            pieces.append(Piece(name="Body" if not pieces else "Loose part", nodes=nodes))
        else:
            gaps.append(Piece(name="Gap", combine="cut away", nodes=nodes))
    pieces.sort(key=lambda p: -len(p.nodes))
    return [*pieces, *gaps]


def _node(before: np.ndarray, here: np.ndarray, after: np.ndarray) -> Node:
    """A node that is smooth where the outline bends gently and a corner where it turns sharply."""
    come, go = here - before, after - here
    near, far = np.linalg.norm(come), np.linalg.norm(go)
    if near == 0 or far == 0 or (come @ go) / (near * far) < 0.45:
        return Node(x=here[0], y=here[1])
    along = come / near + go / far
    along /= np.linalg.norm(along)
    return Node(
        x=here[0], y=here[1], smooth=True,
        arrive=tuple(-along * near * 0.3), leave=tuple(along * far * 0.3),
    )  # fmt: skip


def add_demo(studio: Studio) -> None:
    """Adds the demo project, unless there is one of its name."""
    if any(e.name == NAME for e in studio.projects.list()):
        return
    project = studio.projects.create(Document(project=Project(name=NAME))).document.project.id
    source = studio.keep_file(FOOTAGE / "dune-run.mp4")
    shot, state = studio.import_file(project, source, "Dune run.mp4")
    item = state.document.project.ground[0].id

    def do(edit: Edit) -> Document:
        return studio.projects.edit(project, edit, None).document

    soft = Easing(**dict(zip(("x1", "y1", "x2", "y2"), PRESETS["soft landing"], strict=True)))
    layers = []
    for n, frame in enumerate(LEAPS):
        layer = new_id()
        layers.append(layer)
        document = do(HoldFrame(item=item, frame=frame, name=f"Leap {n + 1}", layer=layer))
        hold = document.layer(layer).hold
        do(ChangeMatte(hold=hold, matte=Matte(pieces=drawn_around(truth_alpha("dune-run", frame)), soften=1.2)))
        do(ChangeLayer(layer=layer, until=shot.frames - 4 * (len(LEAPS) - n)))
        do(SetKey(layer=layer, key=Key(channel="opacity", tie="end", offset=-8, value=[1.0], easing=soft)))
        do(SetKey(layer=layer, key=Key(channel="opacity", tie="end", offset=0, value=[0.0])))
    do(ChangeLayer(layer=layers[1], finishes=[Finish(kind="outline", settings={"width": 5, "colour": "#F7EBD4"})]))
    # One more, which waits in the air above and comes down onto its own frame.
    ahead = new_id()
    document = do(HoldFrame(item=item, frame=76, name="Touch down", arrangement="ahead", layer=ahead))
    pieces = drawn_around(truth_alpha("dune-run", 76))
    do(ChangeMatte(hold=document.layer(ahead).hold, matte=Matte(pieces=pieces, soften=1.2)))
    do(ChangeLayer(layer=ahead, until=54))
    for channel, far, rest in (("position", [150.0, -620.0], [0.0, 0.0]), ("rotation", [24.0], [0.0])):
        do(SetKey(layer=ahead, key=Key(channel=channel, tie="start", offset=0, value=far, easing=soft)))
        do(SetKey(layer=ahead, key=Key(channel=channel, tie="landing", offset=0, value=rest)))
    do(SetLoop(loop=(30, 110)))

"""The demo project: a finished piece of some twenty seconds, made from the demo shots through the ordinary edits."""

from collections.abc import Callable
from pathlib import Path

import av
import numpy as np

from ..core.edits import FRINGE, ChangeLayer, ChangeMatte, Edit, HoldFrame, SetKey, SetLoop
from ..core.matte.outline import outlines
from ..core.model import Arrangement, Document, Easing, Finish, Key, Matte, Project, Tie
from ..core.model.base import new_id
from ..core.motion.easing import PRESETS
from ..studio import Studio

FOOTAGE = Path(__file__).parent / "footage"
NAME = "Gull Point relay"
LEAPS = (46, 58, 70)
CREAM, MUSTARD = "#F7EBD4", "#FDC438"


def truth_alpha(shot: str, frame: int, figure: int | None = None) -> np.ndarray:
    """The subject's true alpha in a frame of a demo shot: float32 (h, w), 0…1; of one `figure` (1, 2) if asked."""
    with av.open(str(FOOTAGE / "truth" / f"{shot}-alpha{figure or ''}.mp4")) as file:
        for number, picture in enumerate(file.decode(video=0)):
            if number == frame:
                return np.clip((picture.to_ndarray(format="gray8").astype(np.float32) - 16) / 219, 0, 1)
    raise IndexError(frame)


class _Making:
    """A project in the making: footage end to end, and cutouts drawn along the truth."""

    def __init__(self, studio: Studio, name: str) -> None:
        self._studio = studio
        self._id = studio.projects.create(Document(project=Project(name=name))).document.project.id
        self.length = 0
        self._item = self._shot = ""

    def do(self, edit: Edit) -> Document:
        """Makes an edit."""
        return self._studio.projects.edit(self._id, edit, None).document

    def footage(self, shot: str, title: str) -> int:
        """Adds a shot to the end of the ground; returns the project's frame at which it begins."""
        source = self._studio.keep_file(FOOTAGE / f"{shot}.mp4")
        known, state = self._studio.import_file(self._id, source, f"{title}.mp4")
        self._item, self._shot = state.document.project.ground[-1].id, shot
        begin, self.length = self.length, self.length + known.frames
        return begin

    def cutout(self, frame: int, name: str, until: int, arrangement: str = "trail", outline: str = "") -> str:
        """Holds a frame of the latest shot and carves its subject out; returns the layer."""
        layer = new_id()
        lies = Arrangement.family[arrangement]()
        document = self.do(HoldFrame(item=self._item, frame=frame, name=name, layer=layer, arrangement=lies))
        pieces = outlines(truth_alpha(self._shot, frame))
        self.do(
            ChangeMatte(
                hold=document.layer(layer).source.hold,
                matte=Matte(pieces=pieces, soften_in=1.2, soften_out=1.2, fringe=FRINGE),
            )
        )
        self.do(ChangeLayer(layer=layer, until=until))
        if outline:
            line = Finish(kind="outline", settings={"width": 5, "colour": outline})
            self.do(ChangeLayer(layer=layer, finishes=[line]))
        return layer

    def key(self, layer: str, channel: str, tie: Tie, offset: int, *value: float) -> None:
        """Sets a key that goes over softly to the next."""
        soft = Easing(**dict(zip(("x1", "y1", "x2", "y2"), PRESETS["soft landing"], strict=True)))
        self.do(SetKey(layer=layer, key=Key(channel=channel, tie=tie, offset=offset, value=list(value), easing=soft)))

    def fade(self, layer: str, frames: int) -> None:
        """Lets a copy go over its last frames."""
        self.key(layer, "opacity", "end", -frames, 1.0)
        self.key(layer, "opacity", "end", 0, 0.0)


def _dune_run(make: _Making) -> None:
    """Three leaps left behind, and one that waits in the air and comes down onto its own frame."""
    make.footage("dune-run", "Dune run")
    for n, frame in enumerate(LEAPS):
        outline = CREAM if n == 1 else ""
        make.fade(make.cutout(frame, f"Leap {n + 1}", 120 - 4 * (len(LEAPS) - n), outline=outline), 8)
    ahead = make.cutout(76, "Touch down", 54, "ahead")
    make.key(ahead, "position", "start", 0, 150.0, -620.0)
    make.key(ahead, "position", "landing", 0, 0.0, 0.0)
    make.key(ahead, "rotation", "start", 0, 24.0)
    make.key(ahead, "rotation", "landing", 0, 0.0)


def _groyne_pan(make: _Making) -> None:
    """Every stride leaves an echo that swells and is gone."""
    begin = make.footage("groyne-pan", "Groyne pan")
    for n, frame in enumerate((22, 45, 68)):
        echo = make.cutout(frame, f"Echo {n + 1}", begin + frame + 16, outline=MUSTARD)
        make.key(echo, "scale", "start", 0, 1.0)
        make.key(echo, "scale", "end", 0, 1.45)
        make.key(echo, "opacity", "start", 0, 0.9)
        make.key(echo, "opacity", "end", 0, 0.0)


def _reel_out(make: _Making) -> None:
    """The reel held out stays while she moves on: it swells, and comes back to its place."""
    begin = make.footage("reel-out", "Reel out")
    held = make.cutout(44, "Reel out", begin + 70, outline=CREAM)
    for tie, offset, size in (("start", 0, 1.0), ("start", 7, 1.12), ("end", -7, 1.12), ("end", 0, 1.0)):
        make.key(held, "scale", tie, offset, size)


def _catch_and_splash(make: _Making) -> None:
    """Up for the kite's tail; over the end of that shot the next one's first frame drops in and lands on the cut."""
    begin = make.footage("kite-catch", "Kite catch")
    make.fade(make.cutout(44, "Up", begin + 60), 6)
    cut = make.footage("splash-down", "Splash down")
    drop = make.cutout(0, "Drop", cut - 14, "ahead")
    make.key(drop, "position", "start", 0, -120.0, -1500.0)
    make.key(drop, "position", "landing", 0, 0.0, 0.0)
    make.key(drop, "rotation", "start", 0, -22.0)
    make.key(drop, "rotation", "landing", 0, 0.0)


def _change_over(make: _Making) -> None:
    """The hand-over stays for a moment as both run on."""
    begin = make.footage("change-over", "Change-over")
    make.fade(make.cutout(30, "Before", begin + 66), 8)
    make.fade(make.cutout(44, "Hand to hand", begin + 78, outline=CREAM), 8)


def _hut_window(make: _Making) -> None:
    """A snap of the fingers, and she stays as she is."""
    begin = make.footage("hut-window-2", "Hut window, take 2")
    snap = make.cutout(50, "Snap", begin + 84, outline=MUSTARD)
    make.key(snap, "scale", "start", 0, 1.06)
    make.key(snap, "scale", "start", 6, 1.0)


SCENES: tuple[Callable[[_Making], None], ...] = (
    _dune_run, _groyne_pan, _reel_out, _catch_and_splash, _change_over, _hut_window,
)  # fmt: skip


def add_demo(studio: Studio, scenes: int = len(SCENES)) -> None:
    """Adds the demo project, or only its first scenes, unless there is a project of its name."""
    if any(e.name == NAME for e in studio.projects.list()):
        return
    make = _Making(studio, NAME)
    for scene in SCENES[:scenes]:
        scene(make)
    if scenes == 1:
        make.do(SetLoop(loop=(30, 110)))

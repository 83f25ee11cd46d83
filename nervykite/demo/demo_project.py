"""The demo project: a finished piece of some twenty seconds, made from the demo shots through the ordinary edits."""

from collections.abc import Callable

import av
import numpy as np

from ..core.change.edits import (
    FRINGE,
    AddCard,
    AddCue,
    AddLayer,
    AddStandstill,
    AddTrack,
    ChangeCue,
    ChangeGround,
    ChangeLayer,
    ChangeMatte,
    ChangeMix,
    ChangePiece,
    Edit,
    HoldFrame,
    MakeGroup,
    MirrorExit,
    MoveLayer,
    PinLayers,
    PutMove,
    PutWorld,
    RemoveGround,
    SetKey,
    SetLoop,
    SetPalette,
    Several,
    SlowPush,
)
from ..core.kinds.hits.shelved import ShelvedSound
from ..core.kinds.sources.floating import ConfettiAir
from ..core.kinds.sources.image import ImageSource
from ..core.kinds.sources.splashes import BlotBackdrop
from ..core.piece.model import (
    Arrangement,
    Behaviour,
    Blur,
    CueTie,
    Document,
    Finish,
    Framing,
    Key,
    Matte,
    Project,
    PutOn,
    Shot,
    Sounding,
    Source,
    Tie,
)
from ..core.piece.model.base import new_id
from ..core.piece.motion.move_beats import preset
from ..core.piece.timeline.timeline import Timeline
from ..core.see.matte.outline import outlines
from ..studio import Studio
from ..studio.importing import import_picture, import_shot, import_sound
from ..studio.track_files import read_track
from . import FOOTAGE
from .seen_shipped import put_seen

NAME = "Gull Point relay"
LEAPS = (46, 58, 70)
CREAM, MUSTARD = "#F7EBD4", "#FDC438"
PALETTE = ("#C8331E", "#0E7C86", MUSTARD, CREAM, "#10243A")
"""The colours of the clubs."""


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
        self.item = self._shot = ""
        self._known: Shot | None = None
        self._assets: dict[str, str] = {}

    def do(self, edit: Edit) -> Document:
        """Makes an edit."""
        return self._studio.projects.edit(self._id, edit, None).document

    def footage(self, shot: str, title: str) -> int:
        """Adds a shot to the end of the ground; returns the project's frame at which it begins."""
        source = self._studio.keep_file(FOOTAGE / f"{shot}.mp4")
        known, state = import_shot(self._studio, self._id, source, f"{title}.mp4")
        put_seen(self._studio, known.id, shot)
        self.item, self._shot, self._known = state.document.project.ground[-1].id, shot, known
        begin, self.length = self.length, self.length + known.frames
        return begin

    def cutout(self, frame: int, name: str, until: int | None, arrangement: str = "trail", outline: str = "") -> str:
        """Holds a frame of the latest shot and carves its subject out; returns the layer."""
        layer = new_id()
        lies = Arrangement.family[arrangement]()
        document = self.do(HoldFrame(item=self.item, frame=frame, name=name, layer=layer, arrangement=lies))
        self._carve(document, layer, frame)
        if until is not None:
            self.do(ChangeLayer(layer=layer, until=until))
        self._outline(layer, outline)
        return layer

    def standstill(self, at: int, frames: int, name: str, outline: str = "") -> str:
        """Has everything stand at a frame of the piece, under a cutout of that very frame; returns its layer."""
        layer, item = new_id(), self.item
        document = self.do(AddStandstill(at=at, frames=frames, hold=True, layer=layer, rest=new_id()))
        held = document.holds[document.layer(layer).source.hold]
        self.do(ChangeLayer(layer=layer, name=name))
        self._carve(document, layer, held.frame)
        self._outline(layer, outline)
        self.length += frames
        self.item = item
        return layer

    def badge(self, club: str, title: str, at: int, frames: int, framing: Framing) -> str:
        """Puts a club's badge into the sky for so many frames; returns its layer."""
        if title not in self._assets:
            source = self._studio.keep_file(FOOTAGE / "badges" / f"{club}.svg")
            self._assets[title] = import_picture(self._studio, self._id, source, f"{title}.svg")[0].id
        layer = new_id()
        document = self._studio.state(self._id).document
        shown = ImageSource.of(document, self._assets[title])
        self.do(AddLayer(source=shown, at=at, frames=frames, layer=layer))
        self.do(ChangeLayer(layer=layer, framing=framing))
        return layer

    def _carve(self, document: Document, layer: str, frame: int) -> None:
        matte = Matte(pieces=outlines(truth_alpha(self._shot, frame)), soften_in=1.2, soften_out=1.2, fringe=FRINGE)
        self.do(ChangeMatte(hold=document.layer(layer).source.hold, matte=matte))

    def track(self) -> str:
        """Keeps how the camera of the latest shot went, as it was written beside it; returns the track."""
        assert self._known is not None
        written = FOOTAGE / "tracks" / f"{self._shot}.json"
        track = read_track(written.read_text(), f"Camera of {self._known.name}.json", self._known)
        self.do(AddTrack(track=track))
        return track.id

    def _outline(self, layer: str, outline: str) -> None:
        if outline:
            line = Finish(kind="outline", settings={"width": 5, "colour": outline})
            self.do(ChangeLayer(layer=layer, finishes=[line]))

    def key(self, layer: str, channel: str, tie: Tie, offset: int, *value: float) -> None:
        """Sets a key that goes over softly to the next."""
        soft = preset("soft landing")
        self.do(SetKey(layer=layer, key=Key(channel=channel, tie=tie, offset=offset, value=list(value), easing=soft)))

    def enters(self, move: str, *layers: str, stagger: int = 0, **settings: float) -> None:
        """Has layers come in by a move."""
        put = PutOn(kind=move, settings=settings)
        self.do(PutMove(layers=list(layers), side="in", move=put, stagger=stagger))

    def shakes(self, behaviour: str, **settings: float) -> None:
        """Has the latest shot in the ground behave so."""
        one = Behaviour(kind=behaviour, settings=settings, seed=7)
        self.do(ChangeGround(item=self.item, behaviours=[one]))

    def below(self, layer: str, source: Source) -> str:
        """Puts something right below a layer, for as long as that is there; returns its layer."""
        document, made = self._studio.state(self._id).document, new_id()
        span = Timeline(document).span(document.layer(layer))
        assert span is not None
        put = AddLayer(source=source, at=span.start, frames=span.end - span.start, layer=made)
        place = [x.id for x in document.project.layers if x.group is None].index(layer)
        self.do(Several(edits=[put, MoveLayer(layers=[made], to=place)]))
        return made

    def fade(self, layer: str, frames: int) -> None:
        """Lets a copy go over its last frames."""
        self.key(layer, "opacity", "end", -frames, 1.0)
        self.key(layer, "opacity", "end", 0, 0.0)

    def hears(
        self, layer: str, kind: str, gain: float, to: str = "landing", offset: int = 0, **settings: object
    ) -> None:
        """Puts a hit on a layer's start, landing or end, by the layer's name."""
        document = self._studio.state(self._id).document
        found = next(x for x in document.project.layers if x.name == layer)
        sound = Sounding.family.parse({"kind": kind, **settings})
        self.do(AddCue(sound=sound, tie=CueTie(layer=found.id, to=to, offset=offset), gain=gain))  # type: ignore[arg-type]

    def music(self, gain: float) -> None:
        """Puts the relay's tune under all of it, round and round until it goes down."""
        source = self._studio.keep_file(FOOTAGE / "relay-tune.ogg")
        asset, _ = import_sound(self._studio, self._id, source, "Relay tune.ogg")
        add = AddCue(sound=ShelvedSound(asset=asset.id, stored=asset.file), tie=CueTie(), gain=gain)
        self.do(add)
        self.do(ChangeCue(cue=add.cue, changes={"loops": True, "fade_out": 40}))

    def hushes(self, layer: str, **source: str) -> None:
        """The hush of the sound while everything stands under a layer, by its name."""
        document = self._studio.state(self._id).document
        found = next(x for x in document.project.layers if x.name == layer)
        item = document.item(found.over or "")
        assert item is not None
        self.do(ChangeGround(item=item.id, source=item.source.model_copy(update=source)))

    def ends(self) -> None:
        """Takes away what comes after the standstill that was made last."""
        ground = self._studio.state(self._id).document.project.ground
        after = ground[-1]
        self.length -= after.source.lasts(self._studio.state(self._id).document)
        self.do(RemoveGround(items=[after.id]))


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
    """Every stride leaves an echo of light in the sand's own place, that swells and is gone."""
    begin = make.footage("groyne-pan", "Groyne pan")
    track = make.track()
    for n, frame in enumerate((22, 45, 68)):
        echo = make.cutout(frame, f"Echo {n + 1}", begin + frame + 16, outline=MUSTARD)
        make.key(echo, "scale", "start", 0, 1.0)
        make.key(echo, "scale", "end", 0, 1.45)
        make.key(echo, "opacity", "start", 0, 0.9)
        make.key(echo, "opacity", "end", 0, 0.0)
        make.do(ChangeLayer(layer=echo, blend="screen"))
        make.do(PinLayers(layers=[echo], track=track))


def _reel_out(make: _Making) -> None:
    """Everything stands as the reel is held out: she swells, the clubs' badges come in together, and it goes on."""
    begin = make.footage("reel-out", "Reel out")
    at, lasts = begin + 44, 40
    held = make.standstill(at, lasts, "Reel out", CREAM)
    make.enters("swell", held, amount=0.12, lasts=9)
    make.do(MirrorExit(layers=[held]))
    make.do(PutWorld(layer=held, way="blurred", strength=0.5))
    blot = make.below(held, BlotBackdrop(last=MUSTARD, across=0.62, down=0.34, wide=250, drops=34, seed=7))
    make.enters("pop", blot, lasts=8)
    make.do(MirrorExit(layers=[blot]))
    card = AddCard(
        card="slanted", name="Juno Abara", line="Harbour Hares", at=at + 1, frames=lasts, x=182, y=210, wide=320,
        above=held,
    )  # fmt: skip
    make.do(card)
    places = [Framing(mode="hand", scale=0.15, across=-0.33, down=down) for down in (0.24, 0.39)]
    first = make.badge("salt-lane-swifts", "Salt Lane Swifts", at + 1, lasts, places[0])
    second = make.badge("harbour-hares", "Harbour Hares", at + 1, lasts, places[1])
    clubs = MakeGroup(layers=[first, second], name="Clubs")
    make.do(clubs)
    make.enters("twirl", first, second, stagger=4, lasts=14, turns=0.75)
    make.do(MirrorExit(layers=[first, second]))
    sway = Behaviour(kind="sway", settings={"angle": 2.5, "period": 1.6}, fade_in=14, fade_out=14)
    make.do(ChangeLayer(layer=clubs.group, behaviours=[sway]))


def _catch_and_splash(make: _Making) -> None:
    """Up for the kite's tail; over the end of that shot the next one's first frame drops in and lands on the cut, which
    the ground takes hard; light lifts off her as she gets up.
    """
    begin = make.footage("kite-catch", "Kite catch")
    up = make.cutout(44, "Up", begin + 60)
    make.do(PutMove(layers=[up], side="out", move=PutOn(kind="shrink-away", settings={"lasts": 9})))
    cut = make.footage("splash-down", "Splash down")
    drop = make.cutout(0, "Drop", cut - 14, "arrival")
    make.key(drop, "position", "start", 0, -120.0, -1500.0)
    make.key(drop, "position", "landing", 0, 0.0, 0.0)
    make.key(drop, "rotation", "start", 0, -22.0)
    make.key(drop, "rotation", "landing", 0, 0.0)
    make.shakes("jolt", amplitude=22, decay=8)
    light = make.cutout(24, "Light", cut + 54)
    edges = Finish(kind="neon-edges", settings={"base": 0.0, "dark": 0.0})
    make.do(ChangeLayer(layer=light, finishes=[edges], blend="screen"))
    make.key(light, "position", "start", 0, 0.0, 0.0)
    make.key(light, "position", "end", -1, 0.0, -230.0)
    make.key(light, "opacity", "start", 8, 1.0)
    make.key(light, "opacity", "end", -1, 0.0)
    make.do(PutWorld(layer=light, way="darkened", strength=0.5))


def _change_over(make: _Making) -> None:
    """The hand-over stays for a moment as both run on, and all of it is pushed slowly nearer."""
    begin = make.footage("change-over", "Change-over")
    make.do(SlowPush(of=[{"item": make.item}], start={"size": 1.0}, end={"size": 0.9, "down": -0.02}))
    make.fade(make.cutout(30, "Before", begin + 66), 8)
    make.fade(make.cutout(44, "Hand to hand", begin + 78, outline=CREAM), 8)


def _hut_window(make: _Making) -> None:
    """A snap of the fingers, and all the world is print: confetti, and the name of the day, which is the end."""
    begin = make.footage("hut-window-2", "Hut window, take 2")
    make.shakes("drift", amplitude=7, rotation=0.4)
    at = begin + 50
    snap = make.standstill(at, END, "Snap", CREAM)
    make.ends()
    make.enters("swell", snap, amount=0.1, lasts=6)
    make.do(PutWorld(layer=snap, way="coloured", strength=0.6))
    make.do(AddLayer(source=ConfettiAir(), at=at + 2, frames=END - 2, above=snap))
    card = AddCard(
        card="arch", name="Gull Point", line="Kite relay", at=at + 8, frames=END - 8, x=345, y=300, wide=540,
        above=snap,
    )  # fmt: skip
    make.do(card)


END = 66
"""For how many frames the end is seen."""


def _sound(make: _Making) -> None:
    """Music under all of it, and on what happens the hits that fit it; the sea is no louder than it has to be."""
    make.do(ChangeMix(changes={"footage": {"gain": -7}, "duck": {"depth": 6}}))
    make.music(-7)
    for n in range(len(LEAPS)):
        make.hears(f"Leap {n + 1}", "shutter", -8, seed=n + 1)
    make.hears("Touch down", "whoosh", -9, lasts=0.7, towards="right")
    make.hears("Touch down", "thud", -6)
    for n in range(3):
        make.hears(f"Echo {n + 1}", "shimmer", -16, to="start", seed=n + 3)
    make.hears("Reel out", "reverse-swell", -9, to="start")
    make.hears("Reel out", "slam", -7, to="start")
    make.hears("Salt Lane Swifts", "whoosh", -12, to="start", offset=6, lasts=0.6, towards="left")
    make.hears("Harbour Hares", "whoosh", -12, to="start", offset=10, lasts=0.6, towards="left", seed=4)
    make.hushes("Reel out", heard="echo", bed="muffled")
    make.hears("Up", "riser", -12, to="end")
    make.hears("Drop", "whoosh", -6, offset=-3, lasts=0.8)
    make.hears("Drop", "thud", -3)
    make.hears("Before", "shutter", -8, seed=8)
    make.hears("Hand to hand", "shutter", -8, seed=9)
    make.hears("Light", "shimmer", -11, to="start", seed=11)
    make.hears("Snap", "snap", -3, to="start")
    make.hears("Snap", "slam", -8, to="start")
    make.hushes("Snap", heard="runs on", bed="runs on")


SCENES: tuple[Callable[[_Making], None], ...] = (
    _dune_run, _groyne_pan, _reel_out, _catch_and_splash, _change_over, _hut_window,
)  # fmt: skip


def add_demo(studio: Studio, scenes: int = len(SCENES)) -> None:
    """Adds the demo project, or only its first scenes, unless there is a project of its name."""
    if any(e.name == NAME for e in studio.projects.list()):
        return
    make = _Making(studio, NAME)
    if scenes > 1:
        make.do(SetPalette(colours=list(PALETTE)))
    for scene in SCENES[:scenes]:
        scene(make)
    if scenes == 1:
        make.do(SetLoop(loop=(30, 110)))
    else:
        make.do(ChangePiece(blur=Blur()))
        _sound(make)

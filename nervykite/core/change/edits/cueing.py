"""Edits of cues: sounds put on frames, changed, taken away; and the sounds that fit how a layer moves."""

import hashlib
import math
from typing import Annotated, Any, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Cue, CueTie, Document, Layer, PutOn, Sounding
from ...piece.model.base import Id, Name, new_id
from ...piece.model.move import Side
from ...piece.model.naming import free_name
from ...piece.timeline.timeline import Timeline
from .base import Edit, layer_of, with_project
from .moves import placed

MOST = 400
"""How many cues a piece has at most."""


def cue_of(document: Document, id_: str) -> Cue:
    """A cue by its id. Raises Refusal if it is gone."""
    found = next((c for c in document.project.cues if c.id == id_), None)
    if found is None:
        raise Refusal("That sound is no longer there. Choose another.")
    return found


def _checked(document: Document, cue: Cue) -> Cue:
    """A cue, if the document has what it is tied to and made of. Raises Refusal."""
    if cue.tie.layer is not None:
        layer_of(document, cue.tie.layer)
    if cue.tie.item is not None and document.item(cue.tie.item) is None:
        raise Refusal("That piece of footage is no longer in the ground. Put the sound on another.")
    cue.sound.checked(document)
    return cue


class AddCue(Edit):
    """Puts a sound on a frame, so far from what it is tied to."""

    kind: Literal["add cue"] = "add cue"
    sound: Sounding
    tie: CueTie = CueTie()
    gain: Annotated[float, Field(ge=-60, le=24)] = 0.0
    name: Name | None = None
    part: Literal["bed", "hits", "voice"] | None = None
    cue: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"add {self.name or self.sound.called(document)}"

    def apply(self, document: Document) -> Document:
        if len(document.project.cues) >= MOST:
            raise Refusal(f"A piece has {MOST} sounds at most. Take some away first.")
        name = free_name(self.name or self.sound.called(document), {c.name for c in document.project.cues})
        # What goes on for a while is music or air until it is told otherwise.
        part = self.part or ("bed" if (self.sound.seconds(document) or 0) > 4 else "hits")
        cue = Cue(id=self.cue, name=name, sound=self.sound, tie=self.tie, gain=self.gain, part=part)
        return with_project(document, cues=[*document.project.cues, _checked(document, cue)])


class ChangeCue(Edit):
    """Changes some of a cue: what is given."""

    kind: Literal["change cue"] = "change cue"
    cue: Id
    changes: dict[str, Any] = Field(min_length=1)

    def title(self, document: Document) -> str:
        return f"change {cue_of(document, self.cue).name}"

    def apply(self, document: Document) -> Document:
        was = cue_of(document, self.cue)
        if unknown := self.changes.keys() - (Cue.model_fields.keys() - {"id"}):
            raise Refusal(f"A sound has nothing that is called {sorted(unknown)[0]}. Choose another setting.")
        try:
            cue = Cue.model_validate({**was.model_dump(mode="json"), **self.changes})
        except ValueError as error:
            raise Refusal(f"{was.name} cannot be changed that way. Choose another value.") from error
        cues = [_checked(document, cue) if c.id == cue.id else c for c in document.project.cues]
        return with_project(document, cues=cues)


class RemoveCues(Edit):
    """Takes sounds away."""

    kind: Literal["remove cues"] = "remove cues"
    cues: Annotated[list[Id], Field(min_length=1, max_length=MOST)]

    def title(self, document: Document) -> str:
        first = cue_of(document, self.cues[0]).name
        return f"remove {first}" + (f" and {len(self.cues) - 1} more" if len(self.cues) > 1 else "")

    def apply(self, document: Document) -> Document:
        gone = {cue_of(document, c).id for c in self.cues}
        return with_project(document, cues=[c for c in document.project.cues if c.id not in gone])


BEFORE = 3
"""So many frames before it comes down what falls is heard most."""
FAINTEST = 0.1
"""What touches down at less than this of its first speed is not heard."""


class SoundMove(Edit):
    """Puts on a layer the sounds that fit how it comes, lands and leaves.

    What flies in or out gets a whoosh as long as its move; what comes down a thud each time that it touches down; what
    pops, a pop; what is held a shutter on its landing.
    """

    kind: Literal["sound move"] = "sound move"
    layer: Id
    group: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"sound {layer_of(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = layer_of(document, self.layer)
        timeline = Timeline(document)
        if timeline.span(layer) is None:
            raise Refusal(f"{layer.name} has no place in the piece. Put its footage into the ground first.")
        for n, (sound, to, offset, gain) in enumerate(self._sounds(layer, timeline)):
            tie = CueTie(layer=layer.id, to=to, offset=offset)
            id_ = hashlib.sha256(f"{self.group} {n}".encode()).hexdigest()[:16]
            document = AddCue(sound=sound, tie=tie, gain=gain, cue=id_).apply(document)
        return document

    def _sounds(self, layer: Layer, timeline: Timeline) -> list[tuple[Any, Any, int, float]]:
        rate = float(timeline.document.project.rate)
        found: list[tuple[Any, Any, int, float]] = []
        if layer.source.moment(timeline.document) is not None:
            found.append(({"kind": "shutter"}, "landing", 0, -4.0))
        for side, put in sided(layer):
            when = placed(layer.arrangement, side, put.move, timeline.ties_of(layer), 0)
            touches = put.move.touches() if side == "in" else []
            downs = [(when.first + round(t.at * when.lasts), t.speed) for t in touches]
            if put.move.heard == "air":
                way = "right" if side == "in" else "left"
                lasts = round(1.3 * max(0.2, min(3.0, when.lasts / rate)), 2)
                loudest = max(when.first, downs[0][0] - BEFORE) if downs else when.first + round(0.6 * when.lasts)
                found.append(({"kind": "whoosh", "lasts": lasts, "towards": way}, when.tie, loudest, -6.0))
            elif put.move.heard == "pop":
                found.append(({"kind": "pop"}, when.tie, when.first, -6.0))
            for n, (frame, speed) in enumerate(downs):
                if n == 0 or speed >= FAINTEST:
                    found.append(({"kind": "thud"}, when.tie, frame, round(-2.0 + 20 * math.log10(speed), 1)))
        return found or [({"kind": "whoosh"}, "start", 4, -6.0)]


def sided(layer: Layer) -> list[tuple[Side, PutOn]]:
    """The moves by which a layer comes and goes, with the sides that they are on."""
    sides: tuple[tuple[Side, PutOn | None], ...] = (("in", layer.entrance), ("out", layer.exit))
    return [(side, put) for side, put in sides if put is not None]

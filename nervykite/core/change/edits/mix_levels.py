"""Edits of how loud things are: the mix of a piece, and the ground's own sound."""

from fractions import Fraction
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from ...common.errors import Refusal
from ...kinds.sources.shot_source import ShotSource
from ...piece.model import Asset, Cue, CueTie, Document, Loudness, Mix
from ...piece.model.base import Id, Model, new_id
from ...piece.model.naming import free_name
from ...piece.timeline.timeline import Timeline
from .base import Edit, item_of, with_item, with_project
from .cueing import AddCue, ChangeCue

Changes = Annotated[dict[str, Any], Field(min_length=1)]


def _changed(was: Model, changes: dict[str, Any], name: str) -> Any:
    """A part of a document with some of it changed, and of its own parts. Raises Refusal if it cannot be that way."""
    data = was.model_dump(mode="json")
    for field, value in changes.items():
        if field not in data:
            raise Refusal(f"{name} has nothing that is called {field}. Choose another setting.")
        whole = isinstance(value, dict) and isinstance(data[field], dict)
        data[field] = {**data[field], **value} if whole else value
    try:
        return type(was).model_validate(data)
    except ValueError as error:
        raise Refusal(f"{name} cannot be changed that way. Choose another value.") from error


class ChangeMix(Edit):
    """Changes some of a piece's mix: what is given."""

    kind: Literal["change mix"] = "change mix"
    changes: Changes

    def title(self, document: Document) -> str:
        return "change the mix"

    def apply(self, document: Document) -> Document:
        mix: Mix = _changed(document.project.mix, self.changes, "The mix")
        return with_project(document, mix=mix)


class ChangeLoudness(Edit):
    """Changes some of how loud items of the ground are."""

    kind: Literal["change loudness"] = "change loudness"
    items: Annotated[list[Id], Field(min_length=1, max_length=2000)]
    changes: Changes

    def title(self, document: Document) -> str:
        return f"change the sound of {document.called(item_of(document, self.items[0]))}"

    def apply(self, document: Document) -> Document:
        for id_ in self.items:
            item = item_of(document, id_)
            loudness: Loudness = _changed(item.loudness, self.changes, "The sound")
            document = with_item(document, id_, loudness=loudness)
        return document


class DetachSound(Edit):
    """Makes the sound of a take a cue of its own, which stays where it is heard; the take is silent from then on."""

    kind: Literal["detach sound"] = "detach sound"
    item: Id
    cue: Id = Field(default_factory=new_id)
    asset: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"detach the sound of {document.called(item_of(document, self.item))}"

    def apply(self, document: Document) -> Document:
        item = item_of(document, self.item)
        source, name = item.source, document.called(item)
        heard = source.sound(document)
        shot = document.shots[heard.shot] if heard else None
        if heard is None or shot is None or shot.sound_file is None or item.loudness.muted:
            raise Refusal(f"{name} is not heard. Choose a take with sound.")
        known = next((a for a in document.assets.values() if a.file == shot.sound_file), None)
        begins = shot.ticks[min(heard.frame, shot.frames - 1)]
        seconds, skip = (float(t * Fraction(shot.tick)) for t in (shot.ticks[-1], begins))
        asset = known or Asset(id=self.asset, kind="sound", name=shot.name, file=shot.sound_file, seconds=seconds)
        document = document.model_copy(update={"assets": {**document.assets, asset.id: asset}})
        timeline, rate = Timeline(document), document.project.rate
        lasts = float((timeline.end_of(item.id) - timeline.starts[item.id]) / rate)
        loud = item.loudness
        sound = {"kind": "shelved", "asset": asset.id, "stored": asset.file}
        document = AddCue(sound=sound, tie=CueTie(item=item.id), gain=loud.gain, cue=self.cue).apply(document)  # type: ignore[arg-type]
        frames = np.arange(shot.frames + 1)
        at = np.interp([p.at for p in loud.line], frames, np.asarray(shot.ticks) * float(Fraction(shot.tick)))
        line = [{"at": float(a), "gain": p.gain} for a, p in zip(at, loud.line, strict=True)]
        changes = {
            "skip": skip, "lasts": lasts, "part": "voice", "speed": float(heard.speed * 100), "pitched": heard.pitch,
            "line": line, "fade_in": loud.fade_in, "fade_out": loud.fade_out,
        }  # fmt: skip
        document = ChangeCue(cue=self.cue, changes=changes).apply(document)
        if isinstance(source, ShotSource):
            return with_item(document, item.id, source=source.model_copy(update={"heard": "off"}), loudness=Loudness())
        return with_item(document, item.id, loudness=loud.model_copy(update={"muted": True}))


class SplitCue(Edit):
    """Cuts a sound in two at a project frame; nothing changes of what is heard."""

    kind: Literal["split cue"] = "split cue"
    cue: Id
    at: Annotated[int, Field(ge=0, le=10_000_000)]
    second: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        found = next((c for c in document.project.cues if c.id == self.cue), None)
        return f"cut {found.name}" if found else "cut a sound"

    def apply(self, document: Document) -> Document:
        cues = document.project.cues
        cue = next((c for c in cues if c.id == self.cue), None)
        frame = Timeline(document).cue(cue) if cue else None
        if cue is None or frame is None:
            raise Refusal("That sound is no longer there. Choose another.")
        if cue.loops or cue.reversed:
            raise Refusal(f"{cue.name} goes on and on, or backwards. Put that off before you cut it.")
        rate = float(document.project.rate)
        begins = frame / rate - cue.strikes
        within = self.at / rate - begins
        seconds = cue.sound.seconds(document)
        lasts = cue.lasts
        left = None if seconds is None else (seconds - cue.skip) * 100 / cue.speed
        heard = min((x for x in (lasts, left) if x is not None), default=None)
        if within <= 0.001 or (heard is not None and within >= heard - 0.001):
            raise Refusal(f"{cue.name} is not heard there. Go to a frame within it.")
        first = cue.model_copy(update={"lasts": within, "fade_out": 0})
        skip = cue.skip + within * cue.speed / 100
        name = free_name(cue.name, {c.name for c in cues})
        second = Cue.model_validate(
            {**cue.model_dump(mode="json"), "id": self.second, "name": name, "skip": skip, "fade_in": 0,
             "lasts": None if lasts is None else lasts - within}
        )  # fmt: skip
        # Its main moment lies in the first part, or where it lay.
        offset = self.at + round(second.strikes * rate) - frame
        second = second.model_copy(update={"tie": cue.tie.model_copy(update={"offset": cue.tie.offset + offset})})
        at = cues.index(cue)
        return with_project(document, cues=[*cues[:at], first, second, *cues[at + 1 :]])

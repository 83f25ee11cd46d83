"""Edits that have a recipe make its piece of what was caught, in place of what another one made; and take that away."""

import re
from typing import Annotated, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...kinds.arrangements.trail import Trail
from ...kinds.sources.hold import HoldSource
from ...kinds.sources.shot_source import ShotSource
from ...piece.model import Caught, Document, Hold, Layer, Made, Project, Recipe
from ...piece.model.base import Colour, Id, new_id
from ...piece.model.layers import Pose
from ...piece.model.naming import free_name
from .base import Edit, hold_shown, item_of, shot_of, sources_of, with_item, with_layer, with_project
from .ground import RemoveGround
from .holds import HoldFrame
from .making import Making
from .moments import RemoveMoment
from .seams import closed

NUMBERED = re.compile(r"Cutout \d+")
"""The names of cutouts to which nobody gave one."""
PLAIN = ("keys", "finishes", "behaviours", "group", "entrance", "exit", "pin", "starts", "ends", "framing", "tag")
"""What a layer has nothing of as long as nobody has done anything with it."""


class PutRecipe(Edit):
    """Makes what a recipe makes of frames that are caught.

    Holds that are there are used with their mattes, and so are their layers if nothing was done with them yet.
    `instead` is what an earlier recipe made, which goes; its holds stay. `palette` are the colours it is made in, in
    place of the piece's. `flags` are moments that were flagged for it, and go with it. `found` says that the frames
    were not chosen by somebody: that they are fewer than the recipe asks for is said then.
    """

    kind: Literal["put recipe"] = "put recipe"
    recipe: Recipe
    caught: Annotated[list[Caught], Field(max_length=60)]
    instead: Id | None = None
    palette: Annotated[list[Colour], Field(max_length=24)] | None = None
    flags: Annotated[list[Id], Field(max_length=200)] = []
    found: bool = False
    made: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"make “{self.recipe.called}”"

    def apply(self, document: Document) -> Document:
        if not self.caught:
            raise Refusal(f"{self.recipe.called} is made of frames that are caught. Choose at least one.")
        flags, known_flags = set(self.flags), flagged(document)
        if self.instead is not None:
            flags |= set(made_of(document, self.instead).flags)
            own = set(made_of(document, self.instead).holds)
            holds = {k: h for k, h in document.holds.items() if k not in own}
            document = without_made(document, self.instead)
            # What was carved is not carved again, whatever is made of it.
            document = document.model_copy(update={"holds": {**holds, **document.holds}})
        cutouts = []
        for one in sorted(self.caught, key=lambda c: (_place(document, c), c.frame)):
            document, layer = _cutout(document, one)
            cutouts.append(layer)
        document = _numbered(document, cutouts)
        before, held = document.project, set(document.holds)
        making = Making(document if self.palette is None else with_project(document, palette=self.palette), cutouts)
        asked = self.recipe.asked
        if self.found and asked is not None and len(cutouts) < asked:
            making.says(_fewer(len(cutouts), asked))
        self.recipe.make(making)
        document, after = making.document, making.document.project
        known = {x.id for x in before.layers} - set(cutouts)
        items, cues = {g.id for g in before.ground}, {c.id for c in before.cues}
        made = Made(
            id=self.made, recipe=self.recipe, caught=self.caught,
            layers=[x.id for x in after.layers if x.id not in known],
            holds=[h for h in document.holds if h not in held],
            emptied=sorted(_emptied(after) - _emptied(before)),
            items=[g.id for g in after.ground if g.id not in items and g.source.stands],
            cues=[c.id for c in after.cues if c.id not in cues],
            behaviours=sorted(_behaviours(after) - _behaviours(before)), said=making.said,
            flags=sorted((flags | (flagged(document) - known_flags)) & flagged(document)),
        )  # fmt: skip
        return with_project(document, made=[*after.made, made], palette=before.palette)


class RemoveMade(Edit):
    """Takes away all that a recipe made, with the moments that were flagged for it, unless somebody tagged or uses
    them.
    """

    kind: Literal["remove made"] = "remove made"
    made: Id

    def title(self, document: Document) -> str:
        return f"take away “{made_of(document, self.made).recipe.called}”"

    def apply(self, document: Document) -> Document:
        flags = set(made_of(document, self.made).flags)
        document = without_made(document, self.made)
        used = {(h.shot, h.frame) for x in document.project.layers if (h := document.holds.get(hold_shown(x) or ""))}
        for shot in document.shots.values():
            gone = {m.id for m in shot.moments if m.id in flags and m.tag is None and (shot.id, m.frame) not in used}
            for moment in gone:
                document = RemoveMoment(shot=shot.id, moment=moment).apply(document)
        return document


def flagged(document: Document) -> set[str]:
    """The ids of all moments of a document."""
    return {m.id for shot in document.shots.values() for m in shot.moments}


def _numbered(document: Document, cutouts: list[str]) -> Document:
    """Cutouts that nobody named, numbered as they follow one another."""
    plain = [x for c in cutouts if (x := document.layer(c)) and NUMBERED.fullmatch(x.name)]
    names = sorted((x.name for x in plain), key=lambda name: int(name.rpartition(" ")[2]))
    for layer, name in zip(plain, names, strict=True):
        document = with_layer(document, layer.id, name=name)
    return document


def _fewer(caught: int, asked: int) -> str:
    frames = "one frame" if caught == 1 else f"{caught} frames"
    return f"It is made of {frames}, not of {asked}: no more of the take fit. Have them closer together, or fewer."


def made_of(document: Document, id_: str) -> Made:
    """The record of what a recipe made, by its id. Raises Refusal if it is gone."""
    made = next((m for m in document.project.made if m.id == id_), None)
    if made is None:
        raise Refusal("What that recipe made is no longer there. Choose a recipe anew.")
    return made


def without_made(document: Document, id_: str) -> Document:
    """The document without what a recipe made, as far as that is still there. Raises Refusal if it is gone."""
    made = made_of(document, id_)
    project = document.project
    gone = set(made.layers)
    cues = [c for c in project.cues if c.id not in made.cues]
    document = with_project(document, cues=cues)
    layers = [
        x.model_copy(update={"group": None}) if x.group in gone else x for x in project.layers if x.id not in gone
    ]
    taken = set(made.behaviours)
    ground = [
        g.model_copy(update={"behaviours": [b for b in g.behaviours if b.id not in taken]})
        if any(b.id in taken for b in g.behaviours)
        else g
        for g in project.ground
    ]
    document = with_project(
        document, layers=layers, ground=ground, behaviours=[b for b in project.behaviours if b.id not in taken],
        made=[m for m in project.made if m.id != id_],
    )  # fmt: skip
    for item in made.emptied:
        document = _filled_again(document, item)
    kept = {h for source in sources_of(document) for h in source.needs}
    holds = {k: h for k, h in document.holds.items() if k in kept or k not in made.holds}
    document = document.model_copy(update={"holds": holds})
    standing = [g.id for g in ground if g.id in made.items]
    return RemoveGround(items=standing).apply(document) if standing else document


def _emptied(project: Project) -> set[str]:
    return {g.id for g in project.ground if getattr(g.source, "emptied", None)}


def _filled_again(document: Document, id_: str) -> Document:
    """The document with the subject back in a piece of the ground, and the cuts closed that were made for that."""
    item = document.item(id_)
    if item is None or not isinstance(item.source, ShotSource):
        return document
    document = with_item(document, id_, source=item.source.model_copy(update={"emptied": None}))
    for beside in (1, 0):
        ground = document.project.ground
        left = next((n for n, g in enumerate(ground) if g.id == id_), 0) - 1 + beside
        if 0 <= left < len(ground) - 1:
            document = closed(document, ground[left], ground[left + 1])
    return document


def _behaviours(project: Project) -> set[str]:
    return {b.id for b in project.behaviours} | {b.id for item in project.ground for b in item.behaviours}


def _place(document: Document, caught: Caught) -> int:
    """Where in the ground something was caught."""
    return next((n for n, g in enumerate(document.project.ground) if g.id == caught.item), 0)


def _cutout(document: Document, caught: Caught) -> tuple[Document, str]:
    """A plain cutout of what was caught: the one that is there, or a new one; of its hold if there is one."""
    item = item_of(document, caught.item)
    footage = item.source.footage(document)
    shot = shot_of(document, footage or "")
    hold = held_at(document, shot.id, caught.frame)
    if hold is None:
        layer = new_id()
        return HoldFrame(item=item.id, frame=caught.frame, layer=layer).apply(document), layer
    for one in document.project.layers:
        if hold_shown(one) == hold.id and one.over == item.id and _is_plain(one):
            return document, one.id
    name = free_name(hold.name, {x.name for x in document.project.layers})
    new = Layer(name=name, source=HoldSource(hold=hold.id), over=item.id, arrangement=Trail())
    return with_project(document, layers=[*document.project.layers, new]), new.id


def held_at(document: Document, shot: str, frame: int) -> Hold | None:
    """The hold of a source frame, the one that is carved if there are several; None if there is none."""
    found = [h for h in document.holds.values() if (h.shot, h.frame) == (shot, frame)]
    return next((h for h in found if h.matte.carved), found[0] if found else None)


def _is_plain(layer: Layer) -> bool:
    plain = Layer(name=layer.name, source=layer.source, arrangement=Trail())
    same = all(getattr(layer, n) == getattr(plain, n) for n in PLAIN)
    return same and layer.pose == Pose() and layer.arrangement == plain.arrangement and layer.blend == "normal"

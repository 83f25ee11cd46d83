"""Saving a part of a piece as a recipe."""

from collections.abc import Mapping, Sequence
from typing import Any

from ...common.errors import Refusal
from ...kinds.cards.card import Inks
from ...kinds.sources.hold import HoldSource
from ...kinds.sources.lettering import LetteringSource
from ...kinds.sources.standstill import StandstillSource
from ...piece.model import Cue, Document, GroundItem, Key, Layer
from ...piece.model.saved import Asked, Lies, Saved, Shaken, Standing, Wanted
from ...piece.timeline.timeline import Timeline
from ..edits.base import hold_shown, with_members


def saved(document: Document, layers: Sequence[str], name: str, open_words: bool, clothes: bool) -> Saved:
    """Layers, and all that belongs to them, as a recipe.

    open_words: whether its words are asked for when it is made; clothes: whether its colours come from the clothes
    then. Raises Refusal, with a sentence about what cannot be kept.
    """
    return _Saving(document, layers).all(name, open_words, clothes)


class _Saving:
    def __init__(self, document: Document, layers: Sequence[str]) -> None:
        self.document, self.timeline = document, Timeline(document)
        wanted = with_members(document, layers)
        self.layers = [x for x in document.project.layers if x.id in wanted]
        if not self.layers:
            raise Refusal("Choose the layers that the recipe is to be made of first.")
        self.rate = float(document.project.rate)
        for layer in self.layers:
            self._checked(layer)
        self.holds = list(dict.fromkeys(h for x in self.layers if (h := hold_shown(x)) is not None))
        if not self.holds:
            raise Refusal("A recipe is made of frames that are caught: choose a cutout as well.")

    def _checked(self, layer: Layer) -> None:
        """Raises Refusal if a layer cannot be part of a recipe."""
        source = layer.source
        if getattr(source, "hold", None) is not None and not isinstance(source, HoldSource):
            raise Refusal(f"{layer.name} runs along with its footage, which a recipe cannot do. Have it stand.")
        if getattr(source, "shot", None) is not None:
            raise Refusal(f"{layer.name} is footage of this project. Leave it out of the recipe.")
        own = {x.id for x in self.layers}
        others = {x.id: x.name for x in self.document.project.layers if x.id not in own}
        for said in source.model_dump().values():
            if isinstance(said, str) and said in others:
                raise Refusal(f"{layer.name} goes by {others[said]}. Choose that as well.")
        if self.timeline.spans[layer.id] is None:
            raise Refusal(f"{layer.name} has no place in the piece. Put its footage into the ground first.")

    def all(self, name: str, open_words: bool, clothes: bool) -> Saved:
        project, inks = self.document.project, Inks.of(self.document.project.palette)
        takes = self._takes()
        wanted = self._wanted(takes)
        number = {w[0]: w[1].id for w in wanted}
        stands = self._stands(number)
        places = {s[0]: s[1].id for s in stands}
        files = self._files()
        return Saved(
            name=name,
            width=project.width,
            height=project.height,
            rate=project.rate,
            takes=max(takes.values()) + 1,
            wanted=[w for _, w in wanted],
            stands=[s for _, s in stands],
            layers=[self._layer(x, number, places) for x in self.layers],
            lies=[x for layer in self.layers if (x := self._lies(layer, number, places)) is not None],
            shakes=self._shakes(number),
            cues=self._cues(),
            asks=self._asks() if open_words else [],
            inks=[inks.main, inks.second, inks.paper, inks.ink],
            clothes=clothes,
            assets=[a for a in self.document.assets.values() if a.file in files],
        )

    def _item(self, layer: Layer) -> GroundItem:
        item = self.document.item(layer.over) if layer.over else None
        if item is None:
            raise Refusal(f"{layer.name} hangs over no footage. Put it over some, or leave it out.")
        return item

    def _takes(self) -> dict[str, int]:
        """The take that each piece of the ground belongs to, from 0: those of its moments, and those beside a swap."""
        ground = self.document.project.ground
        whole = self._wholes()
        needed: set[int] = set()
        for layer in self.layers:
            if hold_shown(layer) is None:
                continue
            take = whole[self._item(layer).id]
            needed.add(take)
            kind = layer.arrangement.kind  # type: ignore[attr-defined]
            needed |= {take - 1} if kind == "arrival" else {take + 1} if kind == "departure" else set()
        numbers = {take: n for n, take in enumerate(sorted(needed))}
        return {g.id: numbers[whole[g.id]] for g in ground if whole[g.id] in numbers}

    def _wholes(self) -> dict[str, int]:
        """Take that each piece of the ground is of, counted through; parts of one, and standstills in it, are one."""
        found: dict[str, int] = {}
        shot, past, number = None, -1, -1
        for item in self.document.project.ground:
            source = item.source
            goes_on = source.footage(self.document) == shot is not None
            played = source.range
            if not (goes_on and (source.stands or (played is not None and played[0] == past))):
                number += 1
            found[item.id] = number
            shot, past = source.footage(self.document), played[1] if played else past
        return found

    def _wanted(self, takes: Mapping[str, int]) -> list[tuple[str, Wanted]]:
        """The moments, by their holds, in the order in which they are caught."""
        found = []
        for id_ in self.holds:
            hold = self.document.holds[id_]
            shot = self.document.shots[hold.shot]
            take = next(takes[self._item(x).id] for x in self.layers if hold_shown(x) == id_)
            ways = {x.arrangement.kind for x in self.layers if hold_shown(x) == id_}  # type: ignore[attr-defined]
            at = "first" if "arrival" in ways else "last" if "departure" in ways else "best"
            found.append((take, hold.frame, id_, at, shot))
        found.sort(key=lambda f: f[:2])
        first = {take: min(f[1] for f in found if f[0] == take) for take, *_ in found}
        return [
            (
                id_,
                Wanted(
                    take=take, after=(frame - first[take]) / float(shot.rate), at=at, wide=shot.width, high=shot.height
                ),
            )
            for take, frame, id_, at, shot in found
        ]

    def _stands(self, number: Mapping[str, str]) -> list[tuple[str, Standing]]:
        """The standstills that it has, by their pieces of the ground."""
        found: dict[str, Standing] = {}
        for layer in self.layers:
            hold = hold_shown(layer)
            item = self.document.item(layer.over) if layer.over else None
            if item is None or hold is None or item.id in found or not isinstance(item.source, StandstillSource):
                continue
            source = item.source
            lasts = source.lasts(self.document) / self.rate
            found[item.id] = Standing(wanted=number[hold], seconds=lasts, heard=source.heard, bed=source.bed)
        return list(found.items())

    def _layer(self, layer: Layer, number: Mapping[str, str], places: Mapping[str, str]) -> Layer:
        """A layer with what it refers to left open."""
        hold = hold_shown(layer)
        span = self.timeline.spans[layer.id]
        ties = self.timeline.ties_of(layer)
        changes: dict[str, Any] = {
            "pin": None, "locked": False, "solo": False,
            "group": layer.group if any(g.id == layer.group for g in self.layers) else None,
            "keys": [self._key(k, ties.frame(k) - ties.landing) for k in layer.keys],
        }  # fmt: skip
        if hold is not None:
            over = self._item(layer).id
            changes["source"] = layer.source.model_copy(update={"hold": number[hold]})
            changes["over"] = places.get(over, number[hold])
        else:
            changes["over"] = places.get(layer.over or "")
        for end in ("starts", "ends"):
            tied = getattr(layer, end)
            if tied is None or tied.item is None:
                continue
            if tied.item in places:
                changes[end] = tied.model_copy(update={"item": places[tied.item]})
            elif hold is not None and span is not None:
                frame = span.start if end == "starts" else span.end
                changes[end] = tied.model_copy(update={"to": "landing", "item": None, "offset": frame - span.landing})
            else:
                changes[end] = None  # where it lies is told apart
        return layer.model_copy(update=changes)

    def _key(self, key: Key, offset: int) -> Key:
        if key.to is None:
            return key
        return key.model_copy(update={"tie": "landing", "to": None, "offset": offset})

    def _lies(self, layer: Layer, number: Mapping[str, str], places: Mapping[str, str]) -> Lies | None:
        """Where a layer lies that hangs on no moment; None if its own ends say it."""
        if hold_shown(layer) is not None or layer.source.gathers or len(layer.arrangement.free) < 2:
            return None
        if layer.starts is not None and layer.starts.item in places:
            return None
        span = self.timeline.spans[layer.id]
        if span is None or (layer.starts is None and layer.ends is None):
            return None
        landings = {h: s.landing for x in self.layers if (h := hold_shown(x)) and (s := self.timeline.spans[x.id])}
        hold = min(landings, key=lambda h: abs(landings[h] - span.start))
        since, until = ((frame - landings[hold]) / self.rate for frame in (span.start, span.end))
        return Lies(layer=layer.id, wanted=number[hold], since=since, until=until)

    def _shakes(self, number: Mapping[str, str]) -> list[Shaken]:
        found: list[Shaken] = []
        ground = self.document.project.ground
        for layer in self.layers:
            hold = hold_shown(layer)
            if hold is None or not layer.arrangement.swaps:
                continue
            after = layer.arrangement.kind == "departure"  # type: ignore[attr-defined]
            if not after and layer.arrangement.kind != "arrival":  # type: ignore[attr-defined]
                continue
            place = [g.id for g in ground].index(self._item(layer).id) + int(after)
            found += [Shaken(wanted=number[hold], next=after, behaviour=b) for b in ground[place].behaviours]
        return found

    def _cues(self) -> list[Cue]:
        own = {x.id for x in self.layers}
        return [c for c in self.document.project.cues if c.tie.layer in own]

    def _asks(self) -> list[Asked]:
        """The words that it shows, each once, by the names of their layers."""
        asks: dict[str, Asked] = {}
        for layer in self.layers:
            if not isinstance(layer.source, LetteringSource) or not layer.source.words.strip():
                continue
            words = layer.source.words[:400]
            known = asks.get(words)
            layers = [*known.layers, layer.id] if known else [layer.id]
            asks[words] = Asked(layers=layers, title=known.title if known else layer.name, words=words)
        return list(asks.values())[:20]

    def _files(self) -> set[str]:
        """The hashes of all files of the shelf that it is made with."""
        files = {f for x in self.layers for f in (*x.source.drawn, *x.source.files)}
        files |= {f for x in self.layers for finish in x.finishes for f in finish.look.files}
        return files | {c.sound.file for c in self._cues() if c.sound.file is not None}

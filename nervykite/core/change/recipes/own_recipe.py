"""A recipe of somebody's own: what was saved of a piece, made of other frames."""

import json
from collections.abc import Mapping, Sequence
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...kinds.cards.card import Inks
from ...kinds.sources.inked import Inked
from ...kinds.sources.lettering import LetteringSource
from ...kinds.sources.standstill import StandstillSource
from ...piece.model import CueTie, GroundItem, Layer, Recipe
from ...piece.model.base import new_id
from ...piece.model.kinds import HIDDEN
from ...piece.model.naming import free_name
from ...piece.model.saved import Saved, Wanted
from ...piece.motion.channels import SOURCE
from ...piece.timeline.ripple import free_ties
from ...piece.timeline.timeline import LayerPlace, Timeline
from ...see.catch.take import Take
from ..edits.base import hold_shown, layer_of, shot_of, with_item, with_project
from ..edits.copying import renewed
from ..edits.making import Making
from ..edits.shelf import AddAsset
from .controls import Share
from .fitted import Fit


class OwnRecipe(Recipe):
    """A recipe that was saved, of as many moments as it was saved with."""

    kind: Literal["own"] = "own"
    title: ClassVar[str] = "Own recipe"
    hint: ClassVar[str] = "Saved from a piece"
    rank: ClassVar[int] = 99
    listed: ClassVar[bool] = False

    what: Annotated[Saved, HIDDEN]
    texts: Annotated[list[Annotated[str, Field(max_length=400)]], HIDDEN, Field(max_length=20)] = []
    spacing: Annotated[Share, Field(title="Spacing")] = 100
    length: Annotated[Share, Field(title="Length")] = 100

    @classmethod
    def settings_schema(cls) -> dict[str, Any]:
        schema = super().settings_schema()
        return {k: v for k, v in schema.items() if k != "$defs"}  # of what was saved, which has no control

    @property
    def called(self) -> str:
        return self.what.name

    @property
    def needs(self) -> int:
        return self.what.takes

    @property
    def dressed_in_clothes(self) -> bool:
        return self.what.clothes

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        if len(takes) < self.needs:
            raise Refusal(f"That needs {self.needs} takes, one after the other in the ground. Add more footage.")
        return [(n, frame) for n, take in enumerate(takes) for frame in self._frames(take, n)]

    def _frames(self, take: Take, number: int) -> list[int]:
        wanted = [w for w in self.what.wanted if w.take == number]
        best = [w for w in wanted if w.at == "best"]
        ends = {"first": take.frames[0], "last": take.frames[-1]} if take.frames else {}
        found = {w.id: ends[w.at] for w in wanted if w.at in ends}
        apart = [round((w.after - best[0].after) * take.rate * self.spacing / 100) for w in best]
        # What waits has to have something to wait in.
        waits = any(x.arrangement.kind == "ahead" for x in self.what.layers)  # type: ignore[attr-defined]
        for w, frame in zip(best, take.spaced(apart, waits) if best else [], strict=True):
            found[w.id] = frame
        return sorted({found[w.id] for w in wanted})

    def make(self, making: Making) -> None:
        each, there = len(self.what.wanted), len(making.cutouts)
        if there < each or there % each or (there > each and self.needs > 1):
            many = f"{each} moments" if each > 1 else "one moment"
            raise Refusal(f"“{self.called}” is made of {many}. Choose as many, or bring them closer together.")
        shelf = self._onto_the_shelf(making)
        for first in range(0, there, each):  # of twice as many it is made twice
            _Putting(self, making, making.cutouts[first : first + each], shelf).all()

    def _onto_the_shelf(self, making: Making) -> dict[str, str]:
        """Puts what it is made with onto the shelf, unless it lies there; gives the ids there by those it was saved
        with.
        """
        found = {}
        for asset in self.what.assets:
            there = (a.id for a in making.document.assets.values() if (a.kind, a.file) == (asset.kind, asset.file))
            known = next(there, None)
            if known is None:
                known = new_id()
                making.do(AddAsset(asset=asset.model_copy(update={"id": known})))
            found[asset.id] = known
        return found


class _Putting:
    """Puts what was saved into a piece, step by step."""

    def __init__(self, recipe: OwnRecipe, making: Making, cutouts: Sequence[str], shelf: Mapping[str, str]) -> None:
        self.recipe, self.what, self.making = recipe, recipe.what, making
        project = making.document.project
        then, now = Inks(*self.what.inks), making.inks
        colours = {getattr(then, n).lower(): getattr(now, n) for n in ("main", "second", "paper", "ink")}
        size = max(project.width, project.height) / max(self.what.width, self.what.height)
        self.fit = Fit(size, project.rate / self.what.rate, colours)
        self.stretch = recipe.length / 100
        self.cutouts: dict[str, Layer] = {
            w.id: making.layer(id_) for w, id_ in zip(self.what.wanted, cutouts, strict=True)
        }
        self.fresh: dict[str, str] = {**shelf, **{x.id: new_id() for x in self.what.layers}}

    def all(self) -> None:
        """All of it."""
        stands = self._stand()
        first: dict[str, str] = {}  # the layer that takes the place of a moment's plain cutout, by the moment
        for layer in self.what.layers:
            hold = hold_shown(layer)
            if hold is not None and not getattr(layer.source, "world", False):
                first.setdefault(hold, layer.id)
        for moment, id_ in first.items():
            self.fresh[id_] = self.cutouts[moment].id
        layers = [self._layer(x, stands, first) for x in self.what.layers]
        own = {x.id for x in self.cutouts.values()}
        document = self.making.document
        kept = [x for x in document.project.layers if x.id not in own]
        self.making.document = with_project(document, layers=[*kept, *layers])
        self._lay()
        self._shake()
        self._sound()

    def _stand(self) -> dict[str, str]:
        """Has everything stand where it did; gives the pieces of the ground that moments and standstills are."""
        making = self.making
        stands: dict[str, str] = {}
        for one in self.what.stands:
            making.stands(self.cutouts[one.wanted].id, making.frames(one.seconds * self.stretch))
            item = making.layer(self.cutouts[one.wanted].id).over or ""
            source = making.over(self.cutouts[one.wanted].id).source
            if isinstance(source, StandstillSource):
                heard = source.model_copy(update={"heard": one.heard, "bed": one.bed})
                making.document = with_item(making.document, item, source=heard)
            stands[one.id] = item
        for moment, cutout in self.cutouts.items():
            # Where everything stands now, the cutout hangs over that; what runs there is the piece before it.
            over = making.over(cutout.id)
            stands[moment] = self._running(over).id
        return stands

    def _running(self, item: GroundItem) -> GroundItem:
        ground = self.making.document.project.ground
        place = [g.id for g in ground].index(item.id)
        return next((g for g in reversed(ground[: place + 1]) if not g.source.stands), item)

    def _layer(self, layer: Layer, places: Mapping[str, str], first: Mapping[str, str]) -> Layer:
        """A layer as it is here."""
        moment = hold_shown(layer)
        fit, large = self.fit, moment is None and isinstance(layer.source, Inked)
        heads = {f.id: type(f.look) for f in layer.finishes} | {b.id: type(b.way) for b in layer.behaviours}
        keys = [fit.key(k, {**heads, SOURCE: type(layer.source)}, large) for k in layer.keys]
        pose = layer.pose
        x, y = pose.position
        scale = min(50.0, pose.scale * fit.size) if large else pose.scale
        given = layer.model_copy(
            update={
                "id": self.fresh[layer.id],
                "name": self._named(layer, first),
                "over": layer.over and places[layer.over],
                "group": layer.group and self.fresh[layer.group],
                "pose": pose.model_copy(update={"position": (x * fit.size, y * fit.size), "scale": scale}),
                "anchor": self._anchor(layer, moment),
                "keys": keys,
                "finishes": [fit.finish(f) for f in layer.finishes],
                "behaviours": [fit.behaviour(b) for b in layer.behaviours],
                "entrance": fit.move(layer.entrance),
                "exit": fit.move(layer.exit),
                "source": self._source(layer, moment),
            }
        )
        for end in ("starts", "ends"):
            tied = getattr(given, end)
            if tied is not None:
                offset = round(fit.frames(tied.offset) * self.stretch)
                item = tied.item and places[tied.item]
                given = given.model_copy(update={end: tied.model_copy(update={"offset": offset, "item": item})})
        return renewed(given)

    def _named(self, layer: Layer, first: Mapping[str, str]) -> str:
        moment = hold_shown(layer)
        if moment is not None and first.get(moment) == layer.id:
            return self.cutouts[moment].name
        return free_name(layer.name, {x.name for x in self.making.document.project.layers})

    def _anchor(self, layer: Layer, moment: str | None) -> tuple[float, float] | None:
        if layer.anchor is None or moment is None:
            if layer.anchor is None or not isinstance(layer.source, Inked):
                return layer.anchor
            project = self.making.document.project
            x, y = layer.anchor
            return x + (project.width - self.what.width) / 2, y + (project.height - self.what.height) / 2
        wanted: Wanted = next(w for w in self.what.wanted if w.id == moment)
        document = self.making.document
        shot = shot_of(document, document.holds[hold_shown(self.cutouts[moment]) or ""].shot)
        return layer.anchor[0] * shot.width / wanted.wide, layer.anchor[1] * shot.height / wanted.high

    def _source(self, layer: Layer, moment: str | None) -> Any:
        family = type(layer.source).family
        settings: dict[str, Any] = layer.source.model_dump(mode="json")
        if moment is not None:
            settings["hold"] = hold_shown(self.cutouts[moment])
        asked = next((n for n, a in enumerate(self.what.asks) if layer.id in a.layers), None)
        if asked is not None and asked < len(self.recipe.texts) and isinstance(layer.source, LetteringSource):
            settings["words"] = self.recipe.texts[asked]
        settings = json.loads(_with_ids(json.dumps(settings), self.fresh))
        source = family.parse(settings)
        if isinstance(source, Inked):  # it grows as a whole
            return Fit(colours=self.fit.colours).kind(source)
        return self.fit.kind(source) if moment is None else source

    def _lay(self) -> None:
        """Ends of their own, from where their moments land."""
        making = self.making
        rate = float(making.document.project.rate)
        for one in self.what.lies:
            timeline = Timeline(making.document)
            moment = self._lands(one.wanted, timeline)
            layer = layer_of(making.document, self.fresh[one.layer])
            start = moment + round(one.since * rate * self.stretch)
            end = moment + max(1, round((one.until - one.since) * rate * self.stretch)) + (start - moment)
            start = max(0, min(start, timeline.length - 1))
            ties = free_ties(LayerPlace(timeline, layer, None), start, max(start + 1, min(end, timeline.length)))
            changed = [x.model_copy(update=ties) if x.id == layer.id else x for x in making.document.project.layers]
            making.document = with_project(making.document, layers=changed)

    def _lands(self, moment: str, timeline: Timeline) -> int:
        """Where a moment is seen in the piece, as it lies now."""
        span = timeline.spans.get(self.cutouts[moment].id)
        if span is not None:
            return span.landing
        hold = self.making.document.holds[hold_shown(self.cutouts[moment]) or ""]
        for item in self.making.document.project.ground:
            if item.source.footage(self.making.document) == hold.shot:
                found = [n for n, f in enumerate(timeline.tables[item.id]) if f >= hold.frame]
                if found:
                    return timeline.starts[item.id] + found[0]
        return 0

    def _shake(self) -> None:
        making = self.making
        for one in self.what.shakes:
            over = self._running(making.over(self.cutouts[one.wanted].id))
            item = making.after(over) if one.next else over
            behaviour = self.fit.behaviour(one.behaviour).model_copy(update={"id": new_id()})
            making.shakes(item, behaviour)

    def _sound(self) -> None:
        for cue in self.what.cues:
            offset = self.fit.frames(cue.tie.offset)
            tie = CueTie(to=cue.tie.to, layer=self.fresh[cue.tie.layer or ""], offset=offset)
            fades = {n: self.fit.frames(getattr(cue, n)) for n in ("fade_in", "fade_out")}
            again = cue.model_copy(update={"id": new_id(), "tie": tie, **fades})
            project = self.making.document.project
            self.making.document = with_project(self.making.document, cues=[*project.cues, again])


def _with_ids(text: str, fresh: Mapping[str, str]) -> str:
    for old, new in fresh.items():
        text = text.replace(f'"{old}"', f'"{new}"')
    return text

"""The document and a time to an ordered list of draws. Pure: no pixels, no files, no memory of other frames."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import cached_property
from typing import NamedTuple

import numpy as np

from ...kinds.sources.lying import Lying, Shaking, lying_of
from ...kinds.sources.picture import digest
from ...kinds.sources.pinned import pinned_of
from ...kinds.sources.rest import anchor_of, hull, keyed_of, own_box
from ...kinds.sources.rest import framing_of as resting
from ...kinds.sources.wash import WashSource
from ...piece.model import Blur, Document, Framing, GroundItem, Layer, Source, When
from ...piece.model.framing import Box
from ...piece.model.source import Shown
from ...piece.motion.keyed import Keyed, pose_at
from ...piece.timeline.timeline import Timeline
from ...see.footage.framing_matrix import corners, fit_matrix, moved_box
from .draws import AT_REST, Draw, Draws, GroupDraw, Matrix, Moved, SpriteDraw, SpriteSpec, WashDraw, Worn
from .shutter import legs


class At(NamedTuple):
    """A time at which draws are asked for, and what the ground shows then.

    `bare`: without washes, and what layers put beneath themselves. `echo`: not what is drawn beneath of earlier times.
    """

    time: float
    shown: Shown | None
    bare: bool = False
    echo: bool = False


class Evaluation:
    """A document made ready to be asked for frames. What frames share is worked out once, when it is first asked."""

    def __init__(self, document: Document, timeline: Timeline | None = None) -> None:
        self.document = document
        self.timeline = timeline or Timeline(document)
        self._keyed: dict[str, Keyed] = {}
        self._framings: dict[str, Framing] = {}
        self._anchors: dict[str, tuple[float, float]] = {}
        self._specs: dict[object, SpriteSpec | None] = {}
        self._still: dict[object, tuple[float, SpriteDraw | None]] = {}

    @property
    def length(self) -> int:
        """The number of frames the piece has."""
        return self.timeline.length

    @cached_property
    def _active(self) -> dict[str | None, list[tuple[int, int, Layer]]]:
        """Layers that are seen at some time, with their spans, from the farthest to the nearest, by their group."""
        layers = self.document.project.layers
        alone = self._alone() if any(x.solo for x in layers) else None
        found: dict[str | None, list[tuple[int, int, Layer]]] = {}
        for layer in layers:
            span = self.timeline.spans[layer.id]
            if layer.visible and span is not None and (alone is None or layer.id in alone):
                found.setdefault(layer.group, []).append((span.start, span.end, layer))
        return found

    def _alone(self) -> set[str]:
        """The ids of what is seen while some layers are looked at alone: those, what they gather, and their groups."""
        seen: set[str] = set()

        def below(id_: str) -> None:
            seen.add(id_)
            for member in self.timeline.members.get(id_, ()):
                below(member.id)

        for layer in self.document.project.layers:
            if layer.solo:
                below(layer.id)
                seen.update(x.id for x in self._upwards(layer))
        return seen

    @cached_property
    def shaking(self) -> Shaking:
        """The piece's own behaviours, as they move all that is seen."""
        return Shaking(self.document, self.length)

    def keyed(self, owner: Layer | GroundItem) -> Keyed:
        """The keys and behaviours of a layer or a ground item, ready to be asked."""
        if isinstance(owner, GroundItem):
            return self.lying(owner).keyed
        if owner.id not in self._keyed:
            self._keyed[owner.id] = keyed_of(self.document, owner, self.timeline)
        return self._keyed[owner.id]

    def lying(self, item: GroundItem) -> Lying:
        """The lie of an item of the ground over time."""
        return lying_of(self.timeline, item)

    def framing(self, layer: Layer) -> Framing:
        """The framing in which a layer rests on the canvas."""
        if layer.id not in self._framings:
            self._framings[layer.id] = resting(self.document, layer, self.timeline)
        return self._framings[layer.id]

    def framing_at(self, item: GroundItem, time: float) -> Framing:
        """The framing of an item of the ground on the canvas at a time, the piece's own behaviours left out."""
        lying = self.lying(item) if item.stirs else None
        return lying.framing(time) if lying is not None and lying.moves else item.framing

    def rest(self, layer: Layer) -> np.ndarray:
        """The layer's source's own pixels to canvas pixels where it is at rest: 3×3."""
        canvas = self.document.project.width, self.document.project.height
        return fit_matrix(layer.source.size(self.document), canvas, self.framing(layer))

    def anchor(self, layer: Layer, time: float | None = None) -> tuple[float, float]:
        """The layer's anchor at rest, in canvas pixels; with a time, where its keys have it then."""
        if time is not None and any(k.channel == "anchor" for k in layer.keys):
            x, y, _ = self.rest(layer) @ [*self.keyed(layer).value("anchor", time), 1]
            return float(x), float(y)
        if layer.id not in self._anchors:
            self._anchors[layer.id] = anchor_of(self.document, layer, self.timeline)
        return self._anchors[layer.id]

    def within(self, layer: Layer, time: float) -> np.ndarray:
        """The matrix of the groups that a layer belongs to, at a time: canvas pixels to canvas pixels, 3×3."""
        group = self.document.layer(layer.group) if layer.group else None
        if group is None:
            return self.shaking.matrix(time) if self.shaking.moves else np.eye(3)
        return self.within(group, time) @ self.matrix(group, time)

    def around(self, layer: Layer, time: float) -> np.ndarray:
        """The matrix of a layer's groups and its pin, at a time: canvas pixels to canvas pixels, 3×3."""
        pinned = pinned_of(self.timeline, layer) if layer.pin is not None else None
        within = self.within(layer, time)
        return within if pinned is None else within @ pinned.carried(time)

    def box(self, layer: Layer, time: float) -> Box | None:
        """The box that a layer covers of its own pixels: of a group, what its members cover of it at a time."""
        if not layer.source.gathers:
            return self.keyed(layer).source(time).bounds(self.document)
        found: Box | None = None
        for member in self.timeline.members.get(layer.id, ()):
            inside = self.box(member, time)
            if inside is None:
                continue
            mine = moved_box(self.matrix(member, time) @ self.rest(member), inside)
            found = mine if found is None else hull(found, mine)
        return found

    def values(self, layer: Layer, time: float) -> dict[str, list[float]]:
        """The value of each channel of the pose, and of each setting that has keys, at a time."""
        values = pose_at(self.keyed(layer), time) | self.settings(layer, time)
        anchor = np.linalg.inv(self.rest(layer)) @ [*self.anchor(layer, time), 1]
        return {**values, "anchor": [round(float(v), 3) for v in anchor[:2]]}

    def settings(self, owner: Layer | GroundItem, time: float) -> dict[str, list[float]]:
        """The value of each setting of a layer's or a ground item's finishes that has keys, at a time."""
        keyed = self.keyed(owner)
        return {c: keyed.value(c, time) for c in keyed.settings}

    def matrix(self, layer: Layer, time: float) -> np.ndarray:
        """The layer's own movement at a time: canvas pixels at rest to canvas pixels, 3×3."""
        anchor = self.anchor(layer, time)
        own = self.keyed(layer).placement(time).matrix(anchor)
        pinned = pinned_of(self.timeline, layer) if layer.pin is not None else None
        return own if pinned is None else pinned.matrix(time, own, anchor)

    def largest(self, layer: Layer) -> float:
        """The number of times as large as at rest a layer gets at most."""
        pinned = pinned_of(self.timeline, layer) if layer.pin is not None else None
        return self.keyed(layer).largest * (1.0 if pinned is None else pinned.largest)

    def at(self, time: float) -> Draws:
        """The draws at a time, in project frames. The same document and time always give equal draws."""
        document, shown = self.document, self.timeline.item_at(time)
        ground = leaving = None
        if shown:
            ground = self._lying(shown.item, shown.frame, time)
            leaving = self._leaving(shown.item, time) if shown.item.fade else None
        moved = None
        if self.shaking.moves:
            moved = Moved(self.shaking.matrix(time), self.shaking.grows, lifted=False)
        layers = self._inside(None, moved, At(time, shown))
        shaken = self._shaken(shown.item, time) if shown else ()
        return Draws(ground, tuple(layers), document.project.background, leaving, shaken)

    def _inside(self, group: str | None, moved: Moved | None, at: At) -> list[Draw]:
        """The draws of the layers of a group (None: of none), which moves them as well."""
        draws: list[Draw] = []
        for start, end, layer in self._active.get(group, ()):
            if start <= at.time < end:
                if not at.bare and not at.echo and self.keyed(layer).echoes:
                    draws.extend(self._echoed(layer, start, moved, at))
                draws.extend(self._of(layer, start, moved, at))
        return draws

    def _echoed(self, layer: Layer, start: int, moved: Moved | None, at: At) -> Iterator[Draw]:
        """The echoes drawn beneath a layer: how it was a moment ago, from the longest ago on."""
        echoes = [e for look in self.keyed(layer).looks(at.time) for e in look.echoes]
        seen = tuple(self._of(layer, start, moved, at._replace(echo=True)))
        for echo in sorted(echoes, key=lambda e: -e.ago):
            then = at.time - echo.ago
            if then < start or echo.opacity <= 0:
                continue
            draws = tuple(self._of(layer, start, moved, At(then, self.timeline.item_at(then), echo=True)))
            # What has not stirred since lies beneath itself.
            if not draws or draws == seen:
                continue
            if len(draws) == 1 and not isinstance(draws[0], WashDraw):
                yield replace(draws[0], opacity=draws[0].opacity * echo.opacity, blend=echo.blend)
            else:
                yield GroupDraw(layer.id, draws, echo.opacity, echo.blend)

    def _of(self, layer: Layer, start: int, moved: Moved | None, at: At) -> Iterator[Draw]:
        """The draws of a layer that is there since a frame, in something that moves it as well."""
        time, shown = at.time, at.shown
        if layer.source.gathers:
            yield from self._gathered(layer, moved, at)
            return
        if layer.source.washes:
            if not at.bare:
                yield from self._washed(layer, moved, at)
            return
        own = shown if shown is not None and shown.item.id == layer.over else None
        source = self._led(self.keyed(layer).source(time), time)
        frame = source.shows(self.document, shown, time - start)
        lifted = moved is not None and moved.lifted
        lies = self.framing_at(own.item, time) if own is not None else None
        home = own is not None and own.frame == frame and self.framing(layer) == lies and not lifted
        opacity, drawn = self._drawn(layer, source, frame, home, time)
        if opacity <= 0:
            return
        behind = None
        if own is not None and lies is not None and not at.bare and not at.echo:
            behind = self._behind(layer, own.frame, lies)
        if behind is not None:
            below = SpriteDraw(layer.id, behind, AT_REST, 1.0)
            yield below if moved is None or lifted else moved.draw(below)
        if drawn is not None:
            landed = home and drawn.matrix == AT_REST
            drawn = drawn if moved is None else moved.draw(drawn)
            # What lies where it landed is as sharp as the footage, whatever comes next.
            moves = () if landed and moved is None else self._moves(layer, time)
            yield replace(drawn, moves=moves) if moves else drawn

    def _led(self, source: Source, time: float) -> Source:
        """A source as it is while what it follows is where that is at a time."""
        led = self.document.layer(source.led_by) if source.led_by else None
        if led is None:
            return source
        x, y, w = self.within(led, time) @ self.matrix(led, time) @ [*self.anchor(led, time), 1]
        return source.led(self.document, (float(x / w), float(y / w)))

    def worn(self, owner: Layer | GroundItem, time: float) -> tuple[Worn, ...]:
        """The finishes of a layer or a ground item as they are at a time."""
        keyed = self.keyed(owner)
        looks = keyed.looks(time)
        if keyed.echoes:
            looks = tuple(look for look in looks if not look.echoes)
        if not keyed.restless:
            return tuple(Worn(look) for look in looks)
        ties = keyed.ties
        when = When(time - ties.start, ties.end - ties.start, ties.landing - ties.start)
        return tuple(Worn(look, look.moment(when)) for look in looks)

    def _moves(self, layer: Layer, time: float) -> tuple[Matrix, ...]:
        """Where a layer is while the shutter is open; nowhere else than now if it stands or has no motion blur."""
        blur = self._blur(layer)
        if not blur.shutter or not self._stirs(layer):
            return ()
        seen = self.rest(layer) @ corners(own_box(self.document, layer))

        def ahead(times: Sequence[float]) -> None:
            self.shaking.ahead(times)
            for one in self._upwards(layer):
                self.keyed(one).ahead(times)

        places = legs(lambda t: self.within(layer, t) @ self.matrix(layer, t), time, blur, seen, ahead=ahead)
        return tuple(tuple(float(v) for v in m.ravel()) for m in places)

    def _blur(self, layer: Layer) -> Blur:
        """A layer's motion blur: its own, or that of the nearest group that has any, or the piece's."""
        own = (x.blur for x in self._upwards(layer) if x.blur is not None)
        return next(own, self.document.project.blur)

    def _stirs(self, layer: Layer) -> bool:
        """True if a layer ever moves, or what it belongs to."""
        return self.shaking.moves or any(x.pin is not None or self.keyed(x).stirs for x in self._upwards(layer))

    def _upwards(self, layer: Layer) -> Iterator[Layer]:
        """A layer and the groups that it belongs to, from the nearest."""
        at: Layer | None = layer
        while at is not None:
            yield at
            at = self.document.layer(at.group) if at.group else None

    def _shaken(self, item: GroundItem, time: float) -> tuple[Matrix, ...]:
        """Where the ground is while the shutter is open, from where it is at a time; none if it stands."""
        blur, lying = self.document.project.blur, self.lying(item)
        if not blur.shutter or not (lying.moves or self.shaking.moves):
            return ()
        canvas = self.document.project.width, self.document.project.height
        size = item.source.size(self.document)

        def lies(t: float) -> np.ndarray:
            framing = lying.framing(t, seen=time)
            if self.shaking.moves:
                framing = self.shaking.framing(framing, size, t)
            return fit_matrix(size, canvas, framing)

        back = np.linalg.inv(lies(time))

        def ahead(times: Sequence[float]) -> None:
            self.shaking.ahead(times)
            lying.keyed.ahead(times)

        places = legs(lambda t: lies(t) @ back, time, blur, corners((0, 0, *canvas)), ahead=ahead)
        return tuple(tuple(float(v) for v in m.ravel()) for m in places)

    def _gathered(self, group: Layer, moved: Moved | None, at: At) -> list[Draw]:
        """The draws of a group's members: one by one where that looks the same, else put together by themselves."""
        time = at.time
        keyed = self.keyed(group)
        opacity = keyed.opacity(time)
        if opacity <= 0:
            return []
        own = self.matrix(group, time)
        largest = self.largest(group)
        if not np.array_equal(own, np.eye(3)) or largest != 1:
            moved = Moved(own if moved is None else moved.matrix @ own, (moved.largest if moved else 1.0) * largest)
        inside, worn = self._inside(group.id, moved, at), self.worn(group, time)
        plain = opacity == 1 and group.blend == "normal" and not worn
        # A wash in it is for what it gathers alone.
        if not inside or (plain and not any(isinstance(x, WashDraw) for x in inside)):
            return inside
        return [GroupDraw(group.id, tuple(inside), opacity, group.blend, worn)]

    def _washed(self, wash: Layer, moved: Moved | None, at: At) -> list[Draw]:
        """The draw of a wash; none while it does nothing."""
        time = at.time
        keyed = self.keyed(wash)
        source, worn, opacity = keyed.source(time), self.worn(wash, time), keyed.opacity(time)
        assert isinstance(source, WashSource)
        if not worn or opacity <= 0:
            return []
        mask: SpriteDraw | GroupDraw | None = None
        if source.where == "cover":
            mask = self._cover(source.of, at)
            if mask is None and not source.outside:
                return []
        elif source.where != "all":
            picture = source.picture(self.document, 0)
            assert picture is not None
            matrix = tuple(float(v) for v in self.matrix(wash, time).ravel())
            spec = SpriteSpec.of(picture, self.framing(wash))
            own = SpriteDraw(wash.id, spec, matrix, 1.0, self.largest(wash))
            mask = moved.draw(own) if moved is not None else own
        outside = source.outside and source.where != "all"
        return [WashDraw(wash.id, worn, opacity, wash.blend, mask, outside)]

    def covering(self, layer: str, time: float) -> SpriteDraw | GroupDraw | None:
        """The draws of what a layer covers at a time; None while it is not there."""
        return self._cover(layer, At(time, self.timeline.item_at(time)))

    def _cover(self, id_: str | None, at: At) -> SpriteDraw | GroupDraw | None:
        """The cover of a layer at a time, wherever it belongs; None while it is not there."""
        time = at.time
        layer = self.document.layer(id_) if id_ else None
        span = self.timeline.spans.get(layer.id) if layer else None
        if layer is None or span is None or not span.start <= time < span.end or layer.source.washes:
            return None
        within = self.within(layer, time)
        moved = None if np.array_equal(within, np.eye(3)) else Moved(within, 1.0)
        # Washes among it cover nothing, and one of them may be the very one that asks.
        draws = self._of(layer, span.start, moved, at._replace(bare=True))
        solid = [x for x in draws if isinstance(x, SpriteDraw | GroupDraw)]
        return GroupDraw(layer.id, tuple(solid), 1.0) if solid else None

    def _lying(self, item: GroundItem, frame: int, time: float) -> SpriteSpec | None:
        """The draw of an item of the ground at one of its source's frames."""
        looks, framing = self.worn(item, time), self.framing_at(item, time)
        if self.shaking.moves:
            framing = self.shaking.framing(framing, item.source.size(self.document), time)
        key = item.id, frame, framing, looks
        if key not in self._specs:
            picture = item.source.picture(self.document, frame)
            self._specs[key] = None if picture is None else SpriteSpec.of(picture, framing, looks)
        return self._specs[key]

    def _leaving(self, item: GroundItem, time: float) -> tuple[SpriteSpec, float] | None:
        """The item that another goes over into, before it, and how much of it is seen; it goes on meanwhile."""
        since = time - self.timeline.starts[item.id]
        before = self.timeline.before(item)
        if before is None or since >= item.fade:
            return None
        spec = self._lying(before, before.source.beyond_end(self.document, int(since)), time)
        return None if spec is None else (spec, 1 - (since + 1) / (item.fade + 1))

    def _drawn(
        self, layer: Layer, source: Source, frame: int, home: bool, time: float
    ) -> tuple[float, SpriteDraw | None]:
        """A layer's opacity and draw at a time, None if there is nothing to see.

        `home` says that the footage shows the very frame that it does, in the same place. Once it moves no more, or
        before it begins to, it is the same draw all along.
        """
        keyed = self.keyed(layer)
        still = keyed.still(time) if layer.source.led_by is None and layer.pin is None else None
        key = layer.id, frame, home, still
        if still and key in self._still:
            return self._still[key]
        matrix = tuple(float(v) for v in self.matrix(layer, time).ravel())
        how = "landed" if home and matrix == AT_REST else "flying"
        spec = self._spec(layer, source, frame, how, self.worn(layer, time))
        opacity = keyed.opacity(time)
        made = None if spec is None else SpriteDraw(layer.id, spec, matrix, opacity, self.largest(layer), layer.blend)
        if still:
            self._still[key] = opacity, made
        return opacity, made

    def _spec(self, layer: Layer, source: Source, frame: int, how: str, looks: tuple[Worn, ...]) -> SpriteSpec | None:
        """The spec that a sprite of the layer follows from at one of its source's frames; None while there is nothing
        to see.
        """
        key = layer.id, frame, how, looks, digest(source) if source is not layer.source else ""
        if key not in self._specs:
            picture = source.picture(self.document, frame, landed=how == "landed")
            self._specs[key] = None if picture is None else SpriteSpec.of(picture, self.framing(layer), looks)
        return self._specs[key]

    def _behind(self, layer: Layer, frame: int, lies: Framing) -> SpriteSpec | None:
        """Draw that a layer puts beneath itself; it lies where the footage does, whatever is done with the layer."""
        key = layer.id, frame, "behind", lies
        if key not in self._specs:
            picture = layer.source.behind(self.document, frame)
            self._specs[key] = None if picture is None else SpriteSpec.of(picture, lies)
        return self._specs[key]


def evaluate(document: Document, time: float) -> Draws:
    """The draws of one frame of a document."""
    return Evaluation(document).at(time)

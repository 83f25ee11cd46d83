"""Edits that put ready entrances and exits on layers."""

from typing import Annotated, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...kinds.sources.rest import anchor_of, box_placed
from ...piece.model import Arrangement, Blur, Document, Key, Layer, PutOn
from ...piece.model.base import new_id
from ...piece.model.move import MoveKind, MoveScene, Side
from ...piece.motion.keyed import Keyed
from ...piece.motion.move_beats import MovePlacement, beats_of, keys_of, turned
from ...piece.motion.placing import Placement
from ...piece.timeline.timeline import Ties, Timeline
from .animating import delays
from .base import Edit, open_layer, with_layer
from .layering import Layers, names_of


class PutMove(Edit):
    """Puts a move on layers as their entrance or exit, in place of the one that is there; None takes that off.

    Several of them do it one after the other, by `stagger` frames each. What is keyed otherwise stays. A layer that
    has no motion blur of its own gets the move's, unless the piece has any.
    """

    kind: Literal["put move"] = "put move"
    layers: Layers
    side: Side
    move: PutOn | None
    stagger: Annotated[int, Field(ge=-1000, le=1000)] = 0
    by: Literal["order", "distance"] = "order"

    def title(self, document: Document) -> str:
        name = names_of(document, self.layers)
        if self.move is None:
            return f"take the {'entrance' if self.side == 'in' else 'exit'} off {name}"
        return f"have {name} {'enter' if self.side == 'in' else 'leave'} by {self.move.move.title}"

    def apply(self, document: Document) -> Document:
        late = delays(document, self.layers, self.stagger, self.by)
        for id_ in self.layers:
            document = self._put(document, open_layer(document, id_), late[id_])
        return document

    def _put(self, document: Document, layer: Layer, late: int) -> Document:
        keys = [k for k in layer.keys if k.made != self.side]
        name = "entrance" if self.side == "in" else "exit"
        if self.move is None:
            return with_layer(document, layer.id, keys=keys, **{name: None})
        move = self.move.move
        if self.side not in move.sides:
            raise Refusal(f"{move.title} is no {name}. Choose another move.")
        timeline = Timeline(document)
        span = timeline.span(layer)
        if span is None:
            raise Refusal(f"{layer.name} has no place in the piece. Put its footage into the ground first.")
        plain = layer.model_copy(update={"keys": keys})
        ties = Ties(span.start, span.landing, span.end)
        when = placed(layer.arrangement, self.side, move, ties, late)
        keyed = Keyed(plain, timeline.ties_of(plain), float(document.project.rate))
        meets = ties.of(when.tie) + when.first + (when.lasts if self.side == "in" else 0)

        def rest(channel: str) -> list[float]:
            return list(keyed.position(meets)) if channel == "position" else keyed.value(channel, meets)

        scene = scene_of(timeline, layer, keyed.placement(meets))
        made = keys_of(beats_of(move, self.side, scene), self.side, when, rest, layer.apart)
        update: dict[str, object] = {"keys": [*keys, *made], name: self.move}
        if layer.blur is None and document.project.blur.shutter == 0 and move.blur:
            update["blur"] = Blur(shutter=move.blur, phase=-move.blur / 2)
        return with_layer(document, layer.id, **update)


def placed(arrangement: Arrangement, side: Side, move: MoveKind, ties: Ties, late: int) -> MovePlacement:
    """Where a move goes in time: at an end of the span, or towards the landing where the layer arrives there.

    What comes down once does so on the landing, and gives way after it, where nobody may see that any more: the next
    take is there.
    """
    lasts = move.lasts
    if side == "in" and arrangement.arrives:
        touches = move.touches()
        until = touches[0].at if len(touches) == 1 else 1.0
        comes = min(max(1, round(until * lasts)), max(1, ties.landing - ties.start))
        return MovePlacement("landing", min(0, late) - comes, min(lasts, max(comes, round(comes / until))))
    lasts = min(lasts, max(1, ties.end - ties.start - 1))
    return MovePlacement("start", late, lasts) if side == "in" else MovePlacement("end", late - 1 - lasts, lasts)


def scene_of(timeline: Timeline, layer: Layer, at: Placement) -> MoveScene:
    """The scene that a move of a layer plays in, given how the layer is placed where the move meets it."""
    document = timeline.document
    x, y = anchor_of(document, layer, timeline)
    there = x + at.position[0], y + at.position[1]
    canvas = document.project.width, document.project.height
    return MoveScene(canvas, box_placed(document, layer, at, timeline), there)


class MirrorExit(Edit):
    """Has layers leave the way they came: what they do from their start on, backwards up to their end."""

    kind: Literal["mirror exit"] = "mirror exit"
    layers: Layers

    def title(self, document: Document) -> str:
        return f"have {names_of(document, self.layers)} leave the way they came"

    def apply(self, document: Document) -> Document:
        for id_ in self.layers:
            layer = open_layer(document, id_)
            came = [k for k in layer.keys if k.made == "in"] or [k for k in layer.keys if k.tie == "start"]
            if not came:
                raise Refusal(f"{layer.name} does not come in any way yet. Give it an entrance first.")
            ties = Timeline(document).ties_of(layer)
            gone = [self._mirrored(k, came, ties) for k in came]
            keys = [*(k for k in layer.keys if k.made != "out"), *gone]
            document = with_layer(document, layer.id, keys=keys, exit=None)
        return document

    def _mirrored(self, key: Key, came: list[Key], ties: Ties) -> Key:
        """A key of the exit: as far before the last frame as the key of the entrance is after the first."""
        first = min(ties.frame(k) for k in came) if key.tie == "landing" else ties.start
        offset = first - ties.frame(key) - 1
        update = {"id": new_id(), "tie": "end", "to": None, "offset": offset, "made": "out"}
        return turned(key, came, ties.frame).model_copy(update=update)

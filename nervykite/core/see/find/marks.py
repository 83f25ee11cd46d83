"""Marks: a few rough keep and drop strokes to the subject they mean."""

import functools
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field, replace

import cv2
import numpy as np

from ...common.aside import crew
from ..matte.colours import SPACES, Mixture, lab, placed, roughness, separation
from ..matte.matting import with_edge
from ..matte.part import around, smaller
from .evidence import Later, edges_of, known_to, leaning, leaning_of, pairwise_of
from .geodesic import geodesic_distance
from .judge import Voices, judged, seen_at
from .looks import Features, alike, looks_of
from .nearer import Nearer, nearer
from .search import Box, Evidence, SearchSettings, Turn, search
from .strokes import Stroke, check, draw, extent, marked_parts, rim_of

PersonHint = Callable[[np.ndarray, np.ndarray, np.ndarray], np.ndarray | None]
"""How likely those people whom strokes mean are at each pixel of a picture; None if nobody can say."""


@dataclass(frozen=True)
class MarksSettings:
    """The settings by which the subject is found that strokes mean, found by trying them on known mattes."""

    search: SearchSettings = field(default_factory=lambda: SearchSettings(turns=3, steps=240))
    pixels: int = 110_000
    """Of the size at which it is looked for, of the part of the picture that is looked at."""
    beyond: float = 0.25
    """The distance around all strokes in which it is looked for at first, in lengths of what keep strokes cover."""
    least: float = 0.05
    """The least such distance, in diagonals of the frame."""
    most: float = 0.8
    """The share of the frame from which on all of it is looked at."""
    outline: float = 1.4
    """What an outline costs in even places."""
    colour: tuple[float, ...] = (0.55, 1.0, 1.0)
    """The say of whose colours they are, at each turn."""
    place: float = 0.6
    """The share of what colours are where, in the say of colours, 0…1."""
    long: float = 0.25
    """The way that counts as much as `here` units of colour, as a part of the subject's length."""
    here: float = 40.0
    """The units of colour that a way `long` across the subject counts as."""
    parts: int = 24
    """The number of colours and places that a side is taken to be mixed of."""
    rough: float = 4.0
    """What twice the texture counts as, in units of colour."""
    unknown: tuple[float, ...] = (4.0, 2.0, 0.0)
    """How well the subject is said to know all colours, at each turn: at first a colour that is known to nobody is
    rather the subject's than the surroundings', of which more has been seen."""
    familiar: float = 4.0
    """How well known a colour is to the surroundings if it counts fully that a pixel is far away, or no person."""
    ways: float = 0.75
    """The say of which stroke is nearer along the picture."""
    sweeps: int = 3
    """How often ways are looked for in all directions: one more changes nothing that is seen."""
    rim_price: float = 0.1
    """What it costs a way to begin at the frame's edge instead of at a drop stroke, in usual ways from a keep one."""
    doubt: float = 0.05
    """What speaks against any pixel."""
    away: float = 0.5
    """The say against a pixel that is far from all keep strokes."""
    near: float = 0.15
    """The distance from keep strokes, in their extent, from which on that say holds."""
    away_strange: float = 0.4
    """The part of that say, 0…1, that is left for a colour that the surroundings do not have."""
    person: float = 0.4
    """The say of a person finder for somebody near."""
    no_person: float = 0.6
    """The say of a person finder against what is nobody."""
    person_strange: float = 0.5
    """The part of that say, 0…1, that is left for a colour that the surroundings do not have."""
    borne_out: float = 1.0
    """The say of a person finder for somebody as far as the strokes bear it out fully."""
    judged: float = 0.6
    """The judge's part of the unary term, 0…1, the rest being that of the rules."""
    unheard: float = 0.5
    """The part of what the judge says against a colour that the surroundings do not have that is left out, 0…1."""
    alike: tuple[float, ...] = (0.15, 0.3, 0.5)
    """The say of what looks alike, at each turn; none if nobody is to look at all."""
    elsewhere: float = 0.6
    """The distance from keep strokes, in their extent, from which on what looks alike is others' at first."""
    heed: float = 0.5
    """The unary term's say beside who looks from near: without it little that was said may all be overruled."""


@dataclass
class MarksTurn(Turn):
    """A turn, and what else is worked out once in it; float32 (h, w)."""

    along: np.ndarray
    """Whether the way along the picture is shorter to a keep stroke (up to 1) or to a drop stroke (down to -1)."""
    strange: np.ndarray
    """How little the surroundings know the colours, 0…1."""
    similar: Future[np.ndarray | None] | None
    """What looks like the subject, see `looks.alike`."""

    @property
    def begins(self) -> np.ndarray:
        """The last answer; at first what is nearer to the keep strokes."""
        return (self.along > 0).astype(np.float32) if self.found is None else self.found


class Marked:
    """A part of a frame, uint8 RGB, with strokes on it, in its own pixels; person: see `find`."""

    def __init__(
        self, frame: np.ndarray, part: Box, keep: list[Stroke], drop: list[Stroke], person: Later,
        settings: MarksSettings, aside: ThreadPoolExecutor,
    ) -> None:  # fmt: skip
        self.settings, self._aside, self._part, self._frame = settings, aside, part, frame.shape[:2]
        corner = part[1].start, part[0].start
        keep, drop = ([s.from_corner(*corner) for s in strokes] for strokes in (keep, drop))
        self.picture, scale = smaller(np.ascontiguousarray(frame[part]), settings.pixels)
        size = self.picture.shape[:2]
        inside, outside = (draw(strokes, size[0], size[1], scale) for strokes in (keep, drop))
        self.inside, self.outside = inside, outside & ~inside
        looked = aside.submit(looks_of, self.picture) if settings.alike else None
        self._rim = rim_of(inside)
        known_out = self.outside if self.outside.any() else self._rim
        spaces = [lab(self.picture, space) for space in SPACES]
        colours = spaces[int(np.argmax(list(aside.map(lambda c: separation(c[inside], c[known_out]), spaces))))]
        self._edges = edges_of(colours)
        self.pairwise = pairwise_of(self._edges, settings.outline)
        # What is sharp before something blurred, or plain before leaves, differs in texture where colours are alike.
        self._colours = np.dstack([colours, settings.rough * roughness(self.picture)])
        length = extent(inside)
        self.away = cv2.distanceTransform((~inside).astype(np.uint8), cv2.DIST_L2, 5) / length
        self._spots = placed(self._colours, settings.long * length, settings.here)
        self._sides = (
            Mixture.of(self._colours[inside]),
            Mixture.of(_with_what_is_far(self._colours, known_out, self.away), 10),
        )
        self._person = person
        self.hint: np.ndarray | None = None
        self.borne_out: np.ndarray | float = 0.0
        self.looks: Features | None = None if looked is None else looked.result()

    def turn(self, number: int, found: np.ndarray | None) -> MarksTurn:
        """The turn: what is known at first of what the strokes cover, later of what the last answer covers as well."""
        set_, here = self.settings, None
        if found is None:
            ours, others = self.inside, self.outside | ((self.away > set_.elsewhere) & ~self.inside)
        else:
            ours, others = self.learned(found)
            here = self._learn(ours, others)
        similar = None if self.looks is None else self._aside.submit(alike, self.looks, ours, others)
        kept, dropped = (known_to(side, self._colours) for side in self._sides)
        leans = leaning(np.maximum(kept, set_.unknown[number]), dropped)
        if here is not None:
            leans = (1 - set_.place) * leans + set_.place * leaning_of(self._spots, *here[:2], here[2])
        along = self._along(leans)
        if number == 0:  # whoever finds people was asked long before, and is done by now
            seen = _seen_in(self._part, self._frame, self._person())
            self.hint, self.borne_out = _heard(seen, self.inside, self.outside)
        strange = np.clip(1 - dropped / set_.familiar, 0, 1)
        nothing = np.zeros(leans.shape, np.float32)
        return MarksTurn(number, found, ours, others, kept, dropped, leans, nothing, along, strange, similar)

    def learned(self, found: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """The lesson of an answer: what is surely the subject, and surely not: bool (h, w)."""
        core = cv2.erode((found > 0.5).astype(np.uint8), np.ones((3, 3))) > 0
        rest = cv2.dilate((found > 0.5).astype(np.uint8), np.ones((5, 5))) == 0
        return core | self.inside, rest | self.outside

    def _learn(self, ours: np.ndarray, others: np.ndarray) -> tuple[Mixture, Mixture, np.ndarray] | None:
        """Learns whose colours they are; and what colours are where, in an area beside the subject, if that is seen."""
        near_by = cv2.dilate(ours.astype(np.uint8), np.ones((61, 61))) > 0
        next_to = others & near_by
        there = [self._aside.submit(Mixture.of, self._spots[a], self.settings.parts, 4.0) for a in (ours, next_to)]
        anywhere = [self._aside.submit(Mixture.of, self._colours[a], 8) for a in (ours, others)]
        if others.any():
            self._sides = anywhere[0].result(), anywhere[1].result()
        return (there[0].result(), there[1].result(), near_by) if min(ours.sum(), next_to.sum()) > 60 else None

    def _along(self, leans: np.ndarray) -> np.ndarray:
        set_ = self.settings
        soft = cv2.GaussianBlur(leans, (0, 0), 1.0)
        step = edges_of(np.repeat(soft[..., None], 3, -1))
        cost = (0.02 + 0.08 * self._edges / (self._edges.mean() + 1e-3) + 8 * step).astype(np.float32)
        near = geodesic_distance(self.inside, cost, set_.sweeps)
        # The frame's edge is where the background is usually seen: a way may begin there too, at a price.
        price = np.where(self._rim & (leans < 0), set_.rim_price * float(np.median(near)), 1e9).astype(np.float32)
        price[self.outside] = 0
        far = geodesic_distance(price, cost, set_.sweeps)
        return (far - near) / (far + near + 1e-6)

    def box(self, turn: MarksTurn) -> Box:
        """All of it."""
        return slice(0, turn.unary.shape[0]), slice(0, turn.unary.shape[1])

    def bound(self, turn: MarksTurn) -> np.ndarray:
        """The unary term, and what strokes cover."""
        turn.unary[self.inside] = 40
        turn.unary[self.outside] = -40
        return turn.unary

    def whole(self, found: np.ndarray) -> np.ndarray:
        """The whole that keep strokes touch. Raises GoesOn if that goes on beyond this part of the frame."""
        found = marked_parts(found, self.inside)
        if goes_on(found > 0.5, self._part, *self._frame):
            raise GoesOn
        return found

    def voices(self, turn: MarksTurn) -> Voices:
        """The evidence that the judge is told."""
        nothing = np.zeros(turn.unary.shape, np.float32)
        similar = None if turn.similar is None else turn.similar.result()
        return Voices(
            self.picture, turn.unary.copy(), turn.leans, turn.along, self.away,
            nothing if self.hint is None else self.hint, nothing + self.borne_out,
            nothing if turn.found is None else turn.found, self.inside, self.outside, turn.kept, turn.dropped,
            nothing if similar is None else similar, self.looks,
        )  # fmt: skip


class GoesOn(Exception):
    """The subject goes on beyond the part of the frame in which it was looked for."""


def colour(view: Marked, turn: MarksTurn) -> np.ndarray:
    """Whose colours they are, and whose they are there."""
    return view.settings.colour[turn.number] * turn.leans


def ways(view: Marked, turn: MarksTurn) -> np.ndarray:
    """The stroke that is nearer along the picture."""
    return view.settings.ways * turn.along - view.settings.doubt


def nearness(view: Marked, turn: MarksTurn) -> np.ndarray:
    """The distance of pixels from all keep strokes, far from which the subject is less likely."""
    set_ = view.settings
    far = np.clip(view.away - set_.near, 0, 1)
    return -set_.away * far * (1 - (1 - set_.away_strange) * turn.strange)


def somebody(view: Marked, turn: MarksTurn) -> np.ndarray | None:
    """The evidence of who finds people, or sees what moves, as far as the strokes agree."""
    if view.hint is None:
        return None
    set_ = view.settings
    for_, against = (
        set_.person * np.clip(1.3 - 2 * view.away, 0, 1),
        set_.no_person * (1 - (1 - set_.person_strange) * turn.strange),
    )
    return np.where(view.hint > 0, for_, against) * view.hint + set_.borne_out * view.borne_out


def judge(view: Marked, turn: MarksTurn) -> np.ndarray | None:
    """The judge, instead of a part of all that was said."""
    says = judged(view.voices(turn))
    return None if says is None else weighed(view, turn, says)


def weighed(view: Marked, turn: MarksTurn, says: np.ndarray) -> np.ndarray:
    """The part added to the unary term so that a part of it is what the judge says, ±SURE, (h, w).

    It looks from too far to see a thin limb, so that what it could not see is left to the rules. What strokes bear out
    is not weighed again.
    """
    set_ = view.settings
    against = says - seen_at(turn.unary)
    against *= np.where(against < 0, 1 - set_.unheard * turn.strange, 1)
    return set_.judged * against + set_.judged * set_.borne_out * view.borne_out


def looks(view: Marked, turn: MarksTurn) -> np.ndarray | None:
    """The evidence of what looks alike."""
    similar = None if turn.similar is None else turn.similar.result()
    return None if similar is None else view.settings.alike[turn.number] * (1 - view.borne_out) * similar


MARKS: tuple[Evidence, ...] = (colour, ways, nearness, somebody, judge, looks)
"""What is heard, in this order."""


def find(
    picture: np.ndarray, keep: list[Stroke], drop: list[Stroke], person: Later = lambda: None,
    evidence: Sequence[Evidence] = MARKS, look: Nearer | None = None, before: np.ndarray | None = None,
    settings: MarksSettings = MarksSettings(),
) -> np.ndarray:  # fmt: skip
    """The subject that the strokes mean, before its edge is solved: float32 (h, w), 0…1, its edge where it is one half.

    picture: uint8 RGB (h, w, 3). person: how likely a person is at each pixel, 0…1, at any size, asked for when it is
    needed; it counts only if the strokes agree with it. evidence: what is heard at each turn of the search; look: what
    looks at the answer from near, `nearer` if nothing else is said; before: what fewer strokes led to, (h, w). Raises
    Refusal.

    It is looked for around the strokes, so that the legs of somebody small are not lost; and in the whole picture if
    it goes on beyond that, or did so before.
    """
    h, w = picture.shape[:2]
    part = beside(*check(keep, drop, h, w), settings)
    everywhere = slice(0, h), slice(0, w)
    if before is not None and goes_on(before[part] > 0.5, part, h, w):
        part = everywhere
    with crew() as aside:

        def found_in(part: Box) -> np.ndarray:
            view = Marked(picture, part, keep, drop, person, settings, aside)
            return _found_in(view, part, evidence, look or functools.partial(nearer, heed=settings.heed))

        found = np.zeros((h, w), np.float32)
        try:
            found[part] = found_in(part)
        except GoesOn:
            found[everywhere] = found_in(everywhere)
    return found


def _found_in(view: Marked, part: Box, evidence: Sequence[Evidence], look: Nearer) -> np.ndarray:
    """The area found in a part of a frame, at its size; raises GoesOn if it goes on beyond that."""
    found, turn = search(view, evidence, view.settings.search)
    assert found is not None
    assert turn is not None
    voices = replace(view.voices(turn), before=found)
    found = look(voices, *view.learned(found))
    found[view.inside], found[view.outside] = 1, 0
    # Between pixels the edge runs where it is one half of what lies on both sides of it.
    meant = cv2.dilate((marked_parts(found, view.inside) > 0.5).astype(np.uint8), np.ones((3, 3), np.uint8))
    size = part[1].stop - part[1].start, part[0].stop - part[0].start
    return cv2.resize(np.where(meant > 0, found, 0), size, interpolation=cv2.INTER_LINEAR)


def cut_out(
    picture: np.ndarray, keep: list[Stroke], drop: list[Stroke], person: PersonHint, reach: float = 10.0,
    before: np.ndarray | None = None, evidence: Sequence[Evidence] = MARKS,
) -> np.ndarray:  # fmt: skip
    """The subject that strokes mean, with its edge: float32 (h, w), 0…1. A stroke's own side always wins.

    picture: uint8 RGB (h, w, 3); person: what finds people in a picture, given what the strokes cover; reach: how far
    the fine edge may go, px; before: what fewer strokes led to, (h, w), if that is known; evidence: see `find`. Raises
    Refusal.
    """
    h, w = picture.shape[:2]
    inside, outside = check(keep, drop, h, w)  # before anybody is looked for
    with crew(1) as aside:
        asked = aside.submit(person, picture, inside, outside)
        found = find(picture, keep, drop, asked.result, evidence, before=before)
    alpha = with_edge(picture, found, reach)
    alpha[outside] = 0
    alpha[inside] = 1
    return alpha


def beside(inside: np.ndarray, outside: np.ndarray, settings: MarksSettings = MarksSettings()) -> Box:
    """The rows and columns around all strokes; all of the frame if that is not much more, or nothing is dropped."""
    h, w = inside.shape
    margin = max(settings.beyond * extent(inside), settings.least * np.hypot(h, w))
    rows, columns = around(inside | outside, round(margin))
    if not outside.any() or (rows.stop - rows.start) * (columns.stop - columns.start) > settings.most * w * h:
        return slice(0, h), slice(0, w)
    return rows, columns


def goes_on(found: np.ndarray, part: Box, h: int, w: int) -> bool:
    """True if a subject bool, in a part of a frame (h, w), touches an edge of the part that is not the frame's."""
    rows, columns = part
    edges = (
        (rows.start > 0, found[0]),
        (rows.stop < h, found[-1]),
        (columns.start > 0, found[:, 0]),
        (columns.stop < w, found[:, -1]),
    )
    return any(bool(inner and edge.any()) for inner, edge in edges)


def _seen_in(part: Box, size: tuple[int, int], person: np.ndarray | None) -> np.ndarray | None:
    """The say of a finder about a frame of a size (height, width), float32 of any size, in a part of it."""
    if person is None:
        return None
    scale = np.array(person.shape) / size
    rows, columns = (
        slice(int(p.start * by), max(int(p.start * by) + 1, round(p.stop * by)))
        for p, by in zip(part, scale, strict=True)
    )
    return person[rows, columns]


def _with_what_is_far(colours: np.ndarray, outside: np.ndarray, away: np.ndarray) -> np.ndarray:
    """Colours (n, 3) of the drop strokes and, as many again, of what lies far from the keep strokes."""
    rng = np.random.default_rng(2)
    marked = colours[outside]
    far = colours[(away > 0.22) & ~outside]
    if len(far) < 50:
        return marked
    count = 3000
    return np.concatenate([marked[rng.integers(0, len(marked), count)], far[rng.integers(0, len(far), count)]])


def _heard(
    person: np.ndarray | None, inside: np.ndarray, outside: np.ndarray
) -> tuple[np.ndarray | None, np.ndarray | float]:
    """The say of a person finder, -1…1, None if strokes speak against it; and where it is as good as sure, 0…1.

    Where most keep strokes lie on what it found and no drop stroke does, it is mostly right about the rest as well:
    even where it only half believes in a hand, or if the subject is an animal or a thing.
    """
    if person is None:
        return None, 0.0
    here = cv2.resize(person, inside.shape[::-1], interpolation=cv2.INTER_LINEAR)
    kept, dropped = float(here[inside].mean()), float(here[outside].mean()) if outside.any() else 0.0
    if kept < 0.6 or dropped > 0.4:
        return None, 0.0
    sure = 2 * here - 1
    # Keep strokes beside what was found say that it is not all; drop strokes on it say that it is wrong.
    agreed = np.clip((kept - 0.65) / 0.2, 0, 1) * np.clip((0.07 - dropped) / 0.05, 0, 1)
    borne_out = agreed * np.tanh(np.maximum(6 * here - 2.4, 0))
    return (sure * np.abs(sure)).astype(np.float32), borne_out.astype(np.float32)

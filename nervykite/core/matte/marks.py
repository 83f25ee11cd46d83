"""Marks: a few rough keep and drop strokes to the subject they mean."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import cv2
import numpy as np

from ..aside import crew
from ..errors import Refusal
from .colours import SPACES, Mixture, lab, placed, roughness, separation
from .cut import minimal_cut
from .edge import with_edge
from .evidence import Later, edges_of, known_to, leaning, leaning_of, tie_of
from .geodesic import geodesic_distance
from .judge import Voices, judged, seen_at
from .looks import alike, looks_of
from .nearer import Nearer, nearer
from .refine import smaller
from .solve import around

COARSE = 250_000
"""Pixels at which the subject is looked for, of the part of the picture that is looked at."""
BEYOND, LEAST, MOST = 0.25, 0.05, 0.8
"""How far around all strokes it is looked for at first, in lengths of what the keep strokes cover, and in diagonals of
the frame at least; the share of the frame from which on all of it is looked at."""


# How much each voice counts, found by trying them on pictures with known subjects.
COLOUR_FIRST, COLOUR, ALONG, AWAY, NEARBY, DOUBT, OUTLINE = 0.55, 1.0, 0.75, 0.5, 0.15, 0.05, 1.4
PERSON, NO_PERSON, BORNE_OUT = 0.4, 0.6, 1.0
"""The say of a person finder: for somebody, against it, and for somebody as far as the strokes bear it out fully."""
ROUGH = 4.0
"""What twice the texture counts as, in units of colour."""
PLACED, LONG, HERE, PARTS = 0.6, 0.25, 40.0, 24
"""The say of what colours are where; the part of the subject's length that counts as much as HERE units of colour."""
UNKNOWN = (4.0, 2.0, 0.0)
"""How well the subject is said to know all colours, at each turn: at first a colour that is known to nobody is rather
the subject's than the surroundings', of which more has been seen."""
FAMILIAR, STRANGE = 4.0, (0.4, 0.5)
"""How well known a colour is to the surroundings if it counts fully that a pixel is far away, or no person; and what
is left of the two where it is unknown to them."""
SWEEPS = 3
"""How often ways are looked for in all directions: one more changes nothing that is seen."""
JUDGED = 0.6
"""How much of the wish is the judge's, the rest being that of the rules."""
UNHEARD = 0.5
"""How much of what it says against a colour that the surroundings do not have is left out."""
ALIKE, ELSEWHERE = (0.15, 0.3, 0.5), 0.6
"""The say of what looks alike, at each turn; from how far on, in the keep strokes' extent, it is others' at first."""
RIM_PRICE = 0.1
"""What it costs a way to begin at the frame's edge instead of at a drop stroke, in usual ways from a keep stroke."""
RIM_LEAN = 0.0
"""How much the frame's edge may lean towards the subject and still count as background."""


Judge = Callable[[Voices], np.ndarray | None]
"""What weighs all voices together, see `judge.judged`; None if there is nobody to do it."""
PersonHint = Callable[[np.ndarray, np.ndarray, np.ndarray], np.ndarray | None]
"""How likely those people whom strokes mean are at each pixel of a picture; None if nobody can say."""


@dataclass(frozen=True)
class Stroke:
    """A line drawn by hand: points (n, 2) in source pixels, and its width."""

    points: np.ndarray
    width: float


def draw(strokes: list[Stroke], height: int, width: int, scale: float = 1.0) -> np.ndarray:
    """The pixels that strokes cover in a frame of the given size, `scale` times the source's: bool (height, width)."""
    mask = np.zeros((height, width), np.uint8)
    for stroke in strokes:
        points = np.round((np.asarray(stroke.points, float).reshape(-1, 2) * scale - 0.5) * 16).astype(np.int32)
        radius = stroke.width * scale / 2
        if radius > 0.75:
            cv2.polylines(mask, [points], False, 1, max(1, round(2 * radius)), cv2.LINE_8, 4)
        else:
            cv2.polylines(mask, [points], False, 1, 1, cv2.LINE_8, 4)
        for end in (points[0], points[-1]):  # a line of one point draws nothing by itself
            cv2.circle(mask, tuple(int(v) for v in end), max(8, round(radius * 16)), 1, -1, cv2.LINE_8, 4)
    return mask > 0


def check(keep: list[Stroke], drop: list[Stroke], height: int, width: int) -> tuple[np.ndarray, np.ndarray]:
    """What keep and drop strokes cover in a frame: bool (height, width). Raises Refusal if that is of no use."""
    inside, outside = draw(keep, height, width), draw(drop, height, width)
    if not keep and not drop:
        raise Refusal("There are no marks yet. Draw a keep stroke over the subject and a drop stroke beside it.")
    if not (inside.any() or outside.any()):
        raise Refusal("All marks lie outside the frame. Draw them over the picture.")
    if not inside.any():
        raise Refusal("No keep stroke lies on the picture. Draw one over the subject.")
    return inside, outside


def find(
    picture: np.ndarray, keep: list[Stroke], drop: list[Stroke], person: Later = lambda: None, judge: Judge = judged,
    look: Nearer = nearer, before: np.ndarray | None = None,
) -> np.ndarray:  # fmt: skip
    """The subject that the strokes mean, before its edge is solved: float32 (h, w), 0…1, its edge where it is one half.

    picture: uint8 RGB (h, w, 3). person: how likely a person is at each pixel, 0…1, at any size, asked for when it is
    needed; it counts only if the strokes agree with it. judge: asked at each turn of the search; look: what
    looks at the answer from near; before: what fewer strokes led to, (h, w). Raises Refusal.

    It is looked for around the strokes, so that the legs of somebody small are not lost; and in the whole picture if
    it goes on beyond that, or did so before.
    """
    h, w = picture.shape[:2]
    part = beside(*check(keep, drop, h, w))
    there = None
    with crew() as aside:
        if before is None or not _goes_on(before[part] > 0.5, part, h, w):
            there = _find_in(picture, part, keep, drop, person, judge, look, aside)
        if there is None:
            part = slice(0, h), slice(0, w)
            there = _find_in(picture, part, keep, drop, person, judge, look, aside)
    assert there is not None
    found = np.zeros((h, w), np.float32)
    found[part] = there
    return found


def beside(inside: np.ndarray, outside: np.ndarray) -> tuple[slice, slice]:
    """The rows and columns around all strokes; all of the frame if that is not much more, or nothing is dropped."""
    h, w = inside.shape
    rows, columns = around(inside | outside, round(max(BEYOND * extent(inside), LEAST * np.hypot(h, w))))
    if not outside.any() or (rows.stop - rows.start) * (columns.stop - columns.start) > MOST * w * h:
        return slice(0, h), slice(0, w)
    return rows, columns


def _goes_on(found: np.ndarray, part: tuple[slice, slice], h: int, w: int) -> bool:
    """Whether a subject bool, in a part of a frame (h, w), touches an edge of the part that is not the frame's."""
    rows, columns = part
    edges = (
        (rows.start > 0, found[0]),
        (rows.stop < h, found[-1]),
        (columns.start > 0, found[:, 0]),
        (columns.stop < w, found[:, -1]),
    )
    return any(bool(inner and edge.any()) for inner, edge in edges)


def _find_in(
    frame: np.ndarray, part: tuple[slice, slice], keep: list[Stroke], drop: list[Stroke], person: Later, judge: Judge,
    look: Nearer, aside: ThreadPoolExecutor,
) -> np.ndarray | None:  # fmt: skip
    """`find` in a part of a frame, by what is seen there: float32 of the part's size; None if it goes on beyond that.

    A coarse search: colours of the strokes, distance along the picture, minimal cut; colours learned anew from the
    answer. What does not wait for each other is done `aside`.
    """
    picture = np.ascontiguousarray(frame[part])
    h, w = picture.shape[:2]
    corner = np.array([part[1].start, part[0].start], float)
    keep, drop = (
        [Stroke(np.asarray(s.points, float).reshape(-1, 2) - corner, s.width) for s in strokes]
        for strokes in (keep, drop)
    )
    small, scale = smaller(picture, COARSE)
    size = small.shape[:2]
    inside, outside = (draw(strokes, size[0], size[1], scale) for strokes in (keep, drop))
    outside &= ~inside
    rim = _rim(inside)
    looked = aside.submit(looks_of, small)
    spaces = [lab(small, space) for space in SPACES]
    known_out = outside if outside.any() else rim
    scores = list(aside.map(lambda c: separation(c[inside], c[known_out]), spaces))
    colours = spaces[int(np.argmax(scores))]
    edges = edges_of(colours)
    tie = tie_of(edges, OUTLINE)
    # What is sharp before something blurred, or plain before leaves, differs in texture where colours are alike.
    colours = np.dstack([colours, ROUGH * roughness(small)])
    away = cv2.distanceTransform((~inside).astype(np.uint8), cv2.DIST_L2, 5) / extent(inside)
    keep_mixture = Mixture.of(colours[inside])
    drop_mixture = Mixture.of(_with_what_is_far(colours, known_out, away), 10)
    u = None
    here: tuple[Mixture, Mixture] | None = None
    near_by = inside
    long = LONG * extent(inside)
    spots = placed(colours, long, HERE)
    looks = looked.result()
    ours, others = inside, outside | ((away > ELSEWHERE) & ~inside)
    for turn in range(3):
        resembled = None if looks is None else aside.submit(alike, looks, ours, others)
        kept, dropped = known_to(keep_mixture, colours), known_to(drop_mixture, colours)
        leans = leaning(np.maximum(kept, UNKNOWN[turn]), dropped)
        strange = np.clip(1 - dropped / FAMILIAR, 0, 1)
        if here is not None:
            leans = (1 - PLACED) * leans + PLACED * leaning_of(spots, *here, near_by)
        soft = cv2.GaussianBlur(leans, (0, 0), 1.0)
        step = edges_of(np.repeat(soft[..., None], 3, -1))
        cost = (0.02 + 0.08 * edges / (edges.mean() + 1e-3) + 8 * step).astype(np.float32)
        near = geodesic_distance(inside, cost, SWEEPS)
        # The frame's edge is where the background is usually seen: a way may begin there too, at a price.
        price = np.where(rim & (leans < RIM_LEAN), RIM_PRICE * float(np.median(near)), 1e9).astype(np.float32)
        price[outside] = 0
        far = geodesic_distance(price, cost, SWEEPS)
        along = (far - near) / (far + near + 1e-6)
        if turn == 0:
            hint, borne_out = _heard(_seen_in(part, frame.shape[:2], person()), inside, outside)
        wish = (COLOUR_FIRST if turn == 0 else COLOUR) * leans + ALONG * along - DOUBT
        wish -= AWAY * np.clip(away - NEARBY, 0, 1) * (1 - (1 - STRANGE[0]) * strange)
        if hint is not None:
            somebody, nobody = PERSON * np.clip(1.3 - 2 * away, 0, 1), NO_PERSON * (1 - (1 - STRANGE[1]) * strange)
            wish += np.where(hint > 0, somebody, nobody) * hint + BORNE_OUT * borne_out
        similar = None if resembled is None else resembled.result()
        nothing = np.zeros(size, np.float32)
        voices = Voices(
            small, wish, leans, along, away, nothing if hint is None else hint, nothing + borne_out,
            nothing if u is None else u, inside, outside, kept, dropped,
            nothing if similar is None else similar, looks,
        )  # fmt: skip
        says = judge(voices)
        if says is not None:
            wish = _weighed(wish, says, borne_out, strange)
        if similar is not None:
            wish += ALIKE[turn] * (1 - borne_out) * similar
        wish[inside] = 40
        wish[outside] = -40
        u = minimal_cut(wish, tie, u if u is not None else (along > 0).astype(np.float32), 240)
        u = marked_parts(u, inside)
        if _goes_on(u > 0.5, part, *frame.shape[:2]):
            return None
        ours, others = _learn_from(u, inside, outside)
        if turn < 2:
            near_by = cv2.dilate(ours.astype(np.uint8), np.ones((61, 61))) > 0
            next_to = others & near_by
            nearby = [aside.submit(Mixture.of, spots[area], PARTS, 4.0) for area in (ours, next_to)]
            anywhere = [aside.submit(Mixture.of, colours[area], 8) for area in (ours, others)]
            if min(ours.sum(), next_to.sum()) > 60:
                here = nearby[0].result(), nearby[1].result()
            if others.any():
                keep_mixture, drop_mixture = (fit.result() for fit in anywhere)
    assert u is not None
    u = look(replace(voices, wish=wish, before=u), ours, others)
    u[inside], u[outside] = 1, 0
    # Between pixels the edge runs where it is one half of what lies on both sides of it.
    meant = cv2.dilate((marked_parts(u, inside) > 0.5).astype(np.uint8), np.ones((3, 3), np.uint8))
    return cv2.resize(np.where(meant > 0, u, 0), (w, h), interpolation=cv2.INTER_LINEAR)


def _seen_in(part: tuple[slice, slice], size: tuple[int, int], person: np.ndarray | None) -> np.ndarray | None:
    """What a finder says of a frame of a size (height, width), float32 of any size, in a part of it."""
    if person is None:
        return None
    scale = np.array(person.shape) / size
    rows, columns = (
        slice(int(p.start * by), max(int(p.start * by) + 1, round(p.stop * by)))
        for p, by in zip(part, scale, strict=True)
    )
    return person[rows, columns]


def cut_out(
    picture: np.ndarray, keep: list[Stroke], drop: list[Stroke], person: PersonHint, reach: float = 10.0,
    before: np.ndarray | None = None,
) -> np.ndarray:  # fmt: skip
    """The subject that strokes mean, with its edge: float32 (h, w), 0…1. A stroke's own side always wins.

    picture: uint8 RGB (h, w, 3); person: what finds people in a picture, given what the strokes cover; reach: how far
    the fine edge may go, px; before: what fewer strokes led to, (h, w), if that is known. Raises Refusal.
    """
    h, w = picture.shape[:2]
    inside, outside = check(keep, drop, h, w)  # before anybody is looked for
    with crew(1) as aside:
        asked = aside.submit(person, picture, inside, outside)
        found = find(picture, keep, drop, asked.result, before=before)
    alpha = with_edge(picture, found, reach)
    alpha[outside] = 0
    alpha[inside] = 1
    return alpha


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
    """What a person finder says, -1…1, None if strokes speak against it; and where it is as good as sure, 0…1.

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


def _weighed(wish: np.ndarray, says: np.ndarray, borne_out: np.ndarray | float, strange: np.ndarray) -> np.ndarray:
    """The wish of the rules (h, w) and what the judge says instead, as one.

    The judge looks from too far to see a thin limb, so that what it could not see is left to the rules. What strokes
    bear out is not weighed again.
    """
    against = says - seen_at(wish)
    against *= np.where(against < 0, 1 - UNHEARD * strange, 1)
    return wish + JUDGED * against + JUDGED * BORNE_OUT * borne_out


def _learn_from(u, inside, outside):
    core = cv2.erode((u > 0.5).astype(np.uint8), np.ones((3, 3))) > 0
    rest = cv2.dilate((u > 0.5).astype(np.uint8), np.ones((5, 5))) == 0
    return core | inside, rest | outside


def _rim(inside: np.ndarray) -> np.ndarray:
    """The frame's edge, but for where the keep strokes come near it."""
    rim = np.zeros(inside.shape, bool)
    k = max(1, min(inside.shape) // 60)
    rim[:k] = rim[-k:] = rim[:, :k] = rim[:, -k:] = True
    return rim & (cv2.dilate(inside.astype(np.uint8), np.ones((9, 9))) == 0)


def extent(inside: np.ndarray) -> float:
    """How long what an area bool (h, w), not empty, covers is from corner to corner, px."""
    ys, xs = np.nonzero(inside)
    return float(np.hypot(np.ptp(ys) + 4, np.ptp(xs) + 4))


def marked_parts(u: np.ndarray, inside: np.ndarray) -> np.ndarray:
    """The parts of an answer (h, w) that a keep stroke touches; what nobody marked is not the subject."""
    count, labels = cv2.connectedComponents((u > 0.5).astype(np.uint8), connectivity=8)
    kept = np.zeros(count, bool)
    kept[np.unique(labels[inside])] = True
    kept[0] = False
    return np.where(kept[labels], u, 0).astype(np.float32)

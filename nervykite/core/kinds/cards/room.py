"""Where there is room for a card: beside the head, away from the edges, over as little of a subject as can be."""

from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True)
class RoomSettings:
    """The settings by which room is looked for.

    `free` are the parts of the canvas that stay free at each side (left, top, right, bottom), more on a tall one, where
    the buttons of phone apps lie; `sizes` what a card is tried at, of its wished width; `upper` how much of a figure
    from its top is guarded as its head is, and by how much more than the rest; `hidden` how much more what hides a card
    counts than what it hides; `smaller` and `aside` what being smaller,
    and lying away from where a card would be expected, cost, in shares of its own room that a subject fills.
    """

    free: tuple[float, float, float, float] = (0.05, 0.05, 0.05, 0.05)
    tall: tuple[float, float, float, float] = (0.05, 0.09, 0.05, 0.17)
    sizes: tuple[float, ...] = (1.0, 0.88, 0.76, 0.64, 0.54)
    upper: float = 0.38
    guarded: float = 3.0
    hidden: float = 4.0
    smaller: float = 0.35
    aside: float = 0.12
    step: int = 2


@dataclass(frozen=True)
class CardRoom:
    """Where a card's middle goes and how wide it is, in shares of the canvas's width and height; `tail` is where the
    subject's head lies as seen from there, in degrees clockwise from the right; `shared` is how much of that room the
    subject fills, 0…1.
    """

    x: float
    y: float
    wide: float
    tail: float = 120.0
    shared: float = 0.0


def room_for(
    cover: np.ndarray, high: float, wide: float = 0.82, taken: np.ndarray | None = None, behind: bool = False,
    settings: RoomSettings | None = None,
) -> CardRoom:  # fmt: skip
    """The best room for a card.

    cover: what subjects cover of the canvas, float32 (h, w), 0…1; small will do
    high: how high the card is for its width, in pixels
    wide: how wide it would like to be, of the canvas's width
    taken: what other things cover, like `cover`: a card does not lie over these either
    behind: it lies behind the subject, which would hide it

    It is looked for beside the head, or where nobody is, in the lower third.
    """
    s = settings or RoomSettings()
    h, w = cover.shape
    subject = figure(cover)
    weight = cover.astype(np.float64) * (s.hidden if behind else 1.0)
    head: tuple[float, float] | None = None
    if subject is not None:
        _, first, _, past = subject
        below = first + max(1, round(s.upper * (past - first)))
        if not behind:
            weight[first:below] *= s.guarded
        upper = cover[first:below]
        mass = upper.sum() or 1.0
        head = float((upper.sum(0) * np.arange(w)).sum() / mass), float(first + 0.4 * (below - first))
        wished = head
    else:
        wished = (w / 2, 0.72 * h)
    if taken is not None:
        weight += (s.hidden + s.guarded) * taken
    sums = cv2.integral(weight)
    left, top, right, bottom = s.tall if h > w else s.free
    best, found, shared = np.inf, (wished[0], wished[1], wide), 0.0
    covered = cv2.integral(cover.astype(np.float64))
    for size in s.sizes:
        bw = max(2, round(wide * size * w))
        bh = max(2, min(round(bw * high), h - 2))
        xs = np.arange(round(left * w), max(round(left * w) + 1, round((1 - right) * w) - bw + 1), s.step)
        ys = np.arange(round(top * h), max(round(top * h) + 1, round((1 - bottom) * h) - bh + 1), s.step)
        x, y = np.meshgrid(np.minimum(xs, w - bw), np.minimum(ys, h - bh))
        inside = sums[y + bh, x + bw] - sums[y, x + bw] - sums[y + bh, x] + sums[y, x]
        far = np.hypot((x + bw / 2 - wished[0]) / w, (y + bh / 2 - wished[1]) / h)
        cost = inside / (bw * bh) + s.aside * far + s.smaller * (1 - size)
        n = int(np.argmin(cost))
        if cost.flat[n] < best:
            best = float(cost.flat[n])
            found = float(x.flat[n] + bw / 2), float(y.flat[n] + bh / 2), wide * size
            u, v = int(x.flat[n]), int(y.flat[n])
            mass = covered[v + bh, u + bw] - covered[v, u + bw] - covered[v + bh, u] + covered[v, u]
            shared = float(mass) / (bw * bh)
    tail = 120.0
    if head is not None:
        tail = float(np.degrees(np.arctan2(head[1] - found[1], head[0] - found[0])))
    return CardRoom(found[0] / w, found[1] / h, found[2], tail, shared)


def figure(cover: np.ndarray) -> tuple[int, int, int, int] | None:
    """Left, top, right, bottom of the largest thing that is covered; None if there is none worth it."""
    count, _, stats, _ = cv2.connectedComponentsWithStats((cover > 0.5).astype(np.uint8))
    if count < 2:
        return None
    x, y, w, h, area = stats[1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA]))]
    return (int(x), int(y), int(x + w), int(y + h)) if area > 0.002 * cover.size else None

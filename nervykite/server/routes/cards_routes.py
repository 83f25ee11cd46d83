"""Cards: each as it would look with a name, where there is room for one; lines around what flies."""

from typing import Annotated

import cv2
import numpy as np
from fastapi import APIRouter, Query, Response

from ...core.common.colour import rgb_of
from ...core.common.errors import Refusal
from ...core.common.kept import Kept
from ...core.craft.lettering.paint import painted
from ...core.kinds.cards.card import Card, CardPart, Inks, Said, around
from ...core.kinds.cards.room import room_for
from ...core.piece.motion.placing import Placement
from ...store.projects import Missing
from ..answers import FOREVER, bounded_router
from ..covered import CoverFinder
from ..desk import Desk
from ..requests import RoomView

WIDE, TALL, MARGIN = 264, 168, 12
"""How large a small picture is, in pixels, and what stays free around the card."""
BEHIND = "#93A7B2"
WIDEST = 0.82
"""How wide a card would like to be, of the canvas's width, or of its height where that is less."""
Name = Annotated[str, Query(min_length=1, max_length=80)]
Line = Annotated[str, Query(max_length=120)]


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio, seen = bounded_router(), desk.studio, CoverFinder(desk.studio)
    known: Kept[bytes] = Kept(200)

    def card_of(kind: str) -> Card:
        found = Card.family.all().get(kind)
        if found is None:
            raise Missing("There is no such card.")
        return found()

    @router.get("/api/projects/{project}/cards/{kind}.jpg", response_class=Response)
    def sample(project: str, kind: str, name: Name = "Name", line: Line = "") -> Response:
        """A card as it would look with a name and a line, in the project's colours."""
        card, inks = card_of(kind), Inks.of(studio.state(project).document.project.palette)
        data = known.get(
            (kind, name, line, inks), lambda: _picture(card, Said(name.strip() or "Name", line, 600.0), inks)
        )
        return Response(data, media_type="image/jpeg", headers=FOREVER)

    @router.get("/api/projects/{project}/cards/{kind}/room")
    def room(
        project: str,
        kind: str,
        frame: Annotated[int, Query(ge=0)],
        name: Name = "Name",
        line: Line = "",
        behind: bool = False,
    ) -> RoomView:
        """Where there is room for a card in what is seen at a frame: its middle and its width, in project pixels."""
        card, state = card_of(kind), studio.state(project)
        evaluation, canvas = studio.evaluation(state), state.document.project
        if not evaluation.length:
            raise Refusal("There is no ground yet to fly over. Put footage into it first.")
        cover, taken = seen.subjects(evaluation, min(frame, evaluation.length - 1))
        parts = card.laid(Said(name.strip() or "Name", line, 600.0), Inks())
        left, top, right, bottom = around(parts)
        # On a wide canvas a card as wide would leave nobody any room.
        wide = WIDEST if canvas.height >= canvas.width else WIDEST * canvas.height / canvas.width
        found = room_for(cover, (bottom - top) / max(1.0, right - left), wide, taken=taken, behind=behind)
        return RoomView(
            x=round(found.x * canvas.width, 1), y=round(found.y * canvas.height, 1),
            wide=round(found.wide * canvas.width, 1), tail=round(found.tail, 1), shared=round(found.shared, 3),
        )  # fmt: skip

    @router.get("/api/projects/{project}/layers/{layer}/line")
    def line_around(
        project: str,
        layer: str,
        frame: Annotated[int, Query(ge=0)],
        away: Annotated[float, Query(ge=-200, le=400)] = 24.0,
    ) -> list[tuple[float, float]]:
        """Points of a line around what a layer covers at a frame, in project pixels from the middle of the canvas."""
        state = studio.state(project)
        found = state.document.layer(layer)
        if found is None:
            raise Missing("There is no such layer.")
        points = seen.line_around(studio.evaluation(state), found, frame, away)
        if len(points) < 3:
            raise Refusal(f"{found.name} covers nothing at this frame. Go to one at which it is seen.")
        return points

    return router


def _picture(card: Card, said: Said, inks: Inks) -> bytes:
    parts = card.laid(said, inks)
    left, top, right, bottom = around(parts)
    by = min((WIDE - 2 * MARGIN) / max(1, right - left), (TALL - 2 * MARGIN) / max(1, bottom - top))
    fit = np.array([[by, 0, WIDE / 2], [0, by, TALL / 2], [0, 0, 1]])
    rgb = np.full((TALL, WIDE, 3), rgb_of(BEHIND), np.float32)
    for part in parts:
        rgba = painted(part.source.outlines(), part.source.look, fit @ placed(part), (0, 0, WIDE, TALL))
        rgb = rgb * (1 - rgba[..., 3:]) + rgba[..., :3]
    bgr = np.round(np.clip(rgb[..., ::-1], 0, 1) * 255).astype(np.uint8)
    return cv2.imencode(".jpg", np.ascontiguousarray(bgr), [cv2.IMWRITE_JPEG_QUALITY, 90])[1].tobytes()


def placed(part: CardPart) -> np.ndarray:
    """Where a part's own pixels come to lie about the card's middle, 3×3: leaning and turned about its own."""
    left, top, right, bottom = part.box
    stands = Placement(turn=part.turn, shear=part.shear).matrix(((left + right) / 2, (top + bottom) / 2))
    return stands @ np.array([[1, 0, part.x], [0, 1, part.y], [0, 0, 1]])

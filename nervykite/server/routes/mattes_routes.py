"""Mattes on the shelf, for all projects."""

from fastapi import APIRouter

from ...core.common.errors import Refusal
from ...store.kept_mattes import SavedMatte
from ..answers import bounded_router
from ..desk import Desk
from ..requests import SaveMatte


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    @router.get("/api/mattes")
    def saved_mattes() -> list[SavedMatte]:
        """The mattes on the shelf, of all projects."""
        return studio.mattes.list()

    @router.post("/api/mattes")
    def save_matte(body: SaveMatte) -> SavedMatte:
        """Puts a hold's matte, or some of its pieces, on the shelf."""
        found, shot = desk.hold(body.project, body.hold)
        matte = found.matte
        if body.pieces is not None:
            matte = matte.model_copy(update={"pieces": [p for p in matte.pieces if p.id in body.pieces]})
        if not matte.pieces:
            raise Refusal("There is nothing in this matte yet. Draw a piece first.")
        return studio.mattes.add(body.name, shot.width, shot.height, matte)

    @router.delete("/api/mattes/{matte}", status_code=204)
    def forget_matte(matte: str) -> None:
        studio.mattes.remove(matte)

    return router

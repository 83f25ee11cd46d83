"""The routes that tell the page what can be chosen."""

from fastapi import APIRouter

from ..answers import bounded_router
from ..catalogue import catalogue
from ..desk import Desk
from ..requests import Catalog


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router = bounded_router()

    @router.get("/api/catalog")
    def catalog() -> Catalog:
        return catalogue()

    return router

"""The application: a router a subject over one desk, and the page."""

from collections.abc import Callable
from contextlib import asynccontextmanager
from functools import partial
from pathlib import Path
from typing import Any

from fastapi import FastAPI, WebSocket
from fastapi.staticfiles import StaticFiles
from pydantic import BaseModel
from pydantic.json_schema import JsonSchemaMode, models_json_schema

from ..studio import Studio
from .answers import ERRORS, add_errors
from .desk import Desk
from .messages import MESSAGES
from .routes import (
    cards_routes,
    catalog_routes,
    catching_routes,
    clips_routes,
    dressing_routes,
    holds_routes,
    lettering_routes,
    mattes_routes,
    motion_routes,
    plates_routes,
    projects_routes,
    recipes_routes,
    samples_routes,
    sending_routes,
    shots_routes,
    snags_routes,
    sound_routes,
    tracking_routes,
)
from .safety import LOCAL, Safety

PAGE = Path(__file__).parent / "page"
SUBJECTS = (
    projects_routes,
    recipes_routes,
    clips_routes,
    catalog_routes,
    shots_routes,
    catching_routes,
    motion_routes,
    sound_routes,
    holds_routes,
    plates_routes,
    tracking_routes,
    mattes_routes,
    dressing_routes,
    lettering_routes,
    samples_routes,
    cards_routes,
    snags_routes,
    sending_routes,
)


def create_app(studio: Studio, hosts: set[str] = LOCAL) -> FastAPI:
    """The web application over a studio; `hosts` are the names it answers to."""
    desk = Desk(studio)

    @asynccontextmanager
    async def running(_app: FastAPI):
        desk.start()
        yield
        desk.close()

    app = FastAPI(
        title="Nervy Kite",
        version="1",
        lifespan=running,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        responses=ERRORS,
    )
    app.add_middleware(Safety, hosts=hosts)
    add_errors(app)
    for subject in SUBJECTS:
        app.include_router(subject.routes(desk))

    @app.websocket("/api/projects/{project}/live")
    async def preview(socket: WebSocket, project: str) -> None:
        await desk.live.serve(socket, project)

    app.openapi = partial(described, app.openapi)  # type: ignore[method-assign]
    if PAGE.is_dir():
        app.mount("/", StaticFiles(directory=PAGE, html=True), name="page")
    return app


def described(routes: Callable[[], dict[str, Any]]) -> dict[str, Any]:
    """The description of routes (OpenAPI 3.1), with what is said over the preview stream."""
    description = routes()
    said: list[tuple[type[BaseModel], JsonSchemaMode]] = [
        (one, "validation" if one.__name__.endswith("Request") else "serialization") for one in MESSAGES
    ]
    _, more = models_json_schema(said, ref_template="#/components/schemas/{model}")
    for name, schema in more["$defs"].items():
        description["components"]["schemas"].setdefault(name, schema)
    return description

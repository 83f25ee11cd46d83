"""The application: a router a subject over one desk, and the page."""

from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, WebSocket
from fastapi.staticfiles import StaticFiles

from ..studio import Studio
from .answers import ERRORS, add_errors
from .desk import Desk
from .routes import (
    cards,
    catalog,
    catching,
    clips,
    dressing,
    holds,
    lettering,
    mattes,
    motion,
    plates,
    projects,
    recipes,
    samples,
    sending,
    shots,
    snags,
    sound,
    tracking,
)
from .safety import LOCAL, Safety

PAGE = Path(__file__).parent / "page"
SUBJECTS = (
    projects,
    recipes,
    clips,
    catalog,
    shots,
    catching,
    motion,
    sound,
    holds,
    plates,
    tracking,
    mattes,
    dressing,
    lettering,
    samples,
    cards,
    snags,
    sending,
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

    if PAGE.is_dir():
        app.mount("/", StaticFiles(directory=PAGE, html=True), name="page")
    return app

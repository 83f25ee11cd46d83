"""The application: routes over a studio."""

import io
import re
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Annotated
from urllib.parse import quote

import cv2
import numpy as np
from fastapi import FastAPI, HTTPException, Query, Request, Response, WebSocket
from fastapi.concurrency import run_in_threadpool
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles

from .. import carrying, carving, plates
from ..carrying import CarryRequest
from ..carving import Finding, FindRequest
from ..core.edits import SetPlate
from ..core.errors import Refusal
from ..core.finishes.registry import CUTOUT, GROUND
from ..core.matte.combine import piece_alpha
from ..core.matte.outline import even_chain, fitted, outlines
from ..core.model import Document, Hold, Node, Piece, Shape, Shot
from ..core.motion.easing import PRESETS
from ..core.send.mp4 import QUALITY, Settings
from ..core.sound.mix import mix, write_wav
from ..plates import MendRequest, Plate, PlateRequest
from ..store.mattes import SavedMatte
from ..store.projects import Entry, Missing, Stale, State
from ..studio import Studio
from .hub import Hub
from .live import Live, keys_of
from .pictures import Pictures
from .safety import LOCAL, Safety
from .views import (
    Catalog,
    EditRequest,
    ExportRequest,
    FinishView,
    NewProject,
    OutlineRequest,
    PathRequest,
    ProjectView,
    SaveMatte,
    StepRequest,
    Trouble,
)
from .work import Ahead, JobView, Work

PAGE = Path(__file__).parent / "page"
MAX_UPLOAD = 8 << 30
HASH = re.compile("[0-9a-f]{64}")
MAX_MATTE = 64 << 20
FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}
ERRORS: dict[int | str, dict] = {
    400: {"model": Trouble}, 404: {"model": Trouble}, 409: {"model": Trouble}, 413: {"model": Trouble},
}  # fmt: skip


def _download(data: bytes, kind: str, name: str) -> Response:
    safe = "".join(c if c.isalnum() or c in "-_. " else "-" for c in name)
    return Response(
        data, media_type=kind, headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(safe)}"}
    )


def create_app(studio: Studio, hosts: set[str] = LOCAL) -> FastAPI:
    """The web application over a studio; `hosts` are the names it answers to."""
    hub, pictures = Hub(), Pictures(studio)
    work, live = Work(studio.jobs, hub), Live(studio, pictures, hub)
    quick = Work(studio.jobs, hub)  # what a person waits for does not queue behind an export
    steady = Work(studio.jobs, hub)  # and what goes on beside their work behind neither
    ahead = Ahead()
    doers = {"import": work, "export": work, "find": quick, "plate": steady, "carry": steady}

    @asynccontextmanager
    async def running(_app: FastAPI):
        hub.start()
        studio.recover()
        yield
        work.close()
        quick.close()
        steady.close()
        ahead.close()
        live.close()

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

    @app.exception_handler(Refusal)
    def refused(_request: Request, refusal: Refusal) -> JSONResponse:
        return JSONResponse({"message": str(refusal)}, 404 if isinstance(refusal, Missing) else 400)

    @app.exception_handler(Stale)
    def stale(_request: Request, error: Stale) -> JSONResponse:
        return JSONResponse({"message": str(error), "revision": error.revision}, 409)

    @app.exception_handler(RequestValidationError)
    def not_understood(_request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"] if x not in ("body", "query", "path", "edit"))
        message = str(first["msg"]).removeprefix("Value error, ")
        return JSONResponse({"message": f"{where}: {message}." if where else f"{message}."}, 400)

    def view(state: State) -> ProjectView:
        return ProjectView.of(state, studio.evaluation(state))

    def changed(state: State) -> ProjectView:
        hub.tell(state.document.project.id, {"type": "changed", "revision": state.revision})
        return view(state)

    def shot_of(project: str, shot: str) -> Shot:
        shots = studio.state(project).document.shots
        if shot not in shots:
            raise Missing("There is no such shot in this project.")
        return shots[shot]

    # -- projects ------------------------------------------------------------------------------------------

    @app.get("/api/projects")
    def list_projects() -> list[Entry]:
        return studio.projects.list()

    @app.post("/api/projects")
    def new_project(body: NewProject) -> ProjectView:
        return view(studio.projects.new(body.name))

    @app.get("/api/projects/{project}")
    def get_project(project: str) -> ProjectView:
        return view(studio.state(project))

    @app.delete("/api/projects/{project}", status_code=204)
    def delete_project(project: str) -> None:
        studio.projects.delete(project)

    @app.post("/api/projects/{project}/restore")
    def restore_project(project: str) -> ProjectView:
        studio.projects.restore(project)
        return view(studio.state(project))

    @app.post("/api/projects/{project}/duplicate")
    def duplicate_project(project: str) -> ProjectView:
        return view(studio.projects.duplicate(project))

    @app.post("/api/projects/{project}/edits")
    def edit(project: str, body: EditRequest) -> ProjectView:
        return changed(studio.edit(project, body.edit, body.revision))

    @app.post("/api/projects/{project}/undo")
    def undo(project: str, body: StepRequest) -> ProjectView:
        return changed(studio.projects.undo(project, body.revision))

    @app.post("/api/projects/{project}/redo")
    def redo(project: str, body: StepRequest) -> ProjectView:
        return changed(studio.projects.redo(project, body.revision))

    @app.get("/api/projects/{project}/keys")
    def frame_keys(project: str) -> list[str]:
        state = studio.state(project)
        return keys_of(state, studio.evaluation(state))

    @app.get("/api/catalog")
    def catalog() -> Catalog:
        finishes = [
            FinishView(kind=f.kind, title=f.title, target=target, settings=f.settings.model_json_schema())
            for target, known in (("cutout", CUTOUT), ("ground", GROUND))
            for f in known.values()
        ]
        return Catalog(finishes=finishes, easings=PRESETS, qualities=list(QUALITY))

    # -- footage -------------------------------------------------------------------------------------------

    @app.post("/api/projects/{project}/shots")
    async def import_shot(project: str, request: Request, name: str = Query(max_length=300)) -> JobView:
        """Takes the request's body as a file, and starts importing it."""
        studio.state(project)
        shown = "".join(c for c in name.replace("\\", "/").split("/")[-1] if c.isprintable()).strip() or "Shot"
        size = 0
        with studio.files.incoming() as (file, path):
            try:
                async for block in request.stream():
                    size += len(block)
                    if size > MAX_UPLOAD:
                        raise HTTPException(413, f"{shown} is larger than {MAX_UPLOAD >> 30} GB. Cut it shorter first.")
                    file.write(block)
                file.flush()
            except OSError as error:
                raise Refusal(f"{shown} could not be stored: {error.strerror}. Make room on the disk.") from error
            with studio.database.writing() as connection:
                source = studio.files.keep(connection, path)

        def task(progress) -> dict:
            try:
                shot, state = studio.import_file(project, source, shown, progress)
            except BaseException:
                studio.discard_file(source)
                raise
            hub.tell(project, {"type": "changed", "revision": state.revision})
            return {"shot": shot.id, "note": shot.note}

        return work.start("import", project, f"Import {shown}", task)

    @app.exception_handler(HTTPException)
    def http_error(_request: Request, error: HTTPException) -> JSONResponse:
        return JSONResponse({"message": str(error.detail)}, error.status_code)

    @app.get("/api/projects/{project}/shots/{shot}/frames/{frame}.jpg", response_class=Response)
    def source_frame(
        project: str, shot: str, frame: int, width: Annotated[int | None, Query(ge=16, le=8192)] = None
    ) -> Response:
        """A source frame, at its own size or at a width."""
        found = shot_of(project, shot)
        if not 0 <= frame < found.frames:
            raise Missing(f"{found.name} has no frame {frame}; its last one is {found.frames - 1}.")
        return Response(pictures.source(found, frame, width), media_type="image/jpeg", headers=FOREVER)

    @app.get("/api/projects/{project}/shots/{shot}/strip.jpg", response_class=Response)
    def strip(
        project: str,
        shot: str,
        first: Annotated[int, Query(ge=0)],
        past: Annotated[int, Query(ge=1)],
        count: Annotated[int, Query(ge=1, le=120)],
        height: Annotated[int, Query(ge=16, le=240)] = 48,
    ) -> Response:
        """Evenly spaced frames of a range, side by side."""
        found = shot_of(project, shot)
        span = np.clip([first, past - 1], 0, found.frames - 1)
        at = span[0] + (np.arange(count) + 0.5) / count * (span[1] + 1 - span[0])
        frames = tuple(int(f) for f in np.clip(at, 0, found.frames - 1))
        return Response(pictures.strip(found, frames, height), media_type="image/jpeg", headers=FOREVER)

    @app.get("/api/projects/{project}/layers/{layer}/thumbnail.png", response_class=Response)
    def thumbnail(project: str, layer: str, side: Annotated[int, Query(ge=16, le=512)] = 64) -> Response:
        """A layer's cutout."""
        state = studio.state(project)
        found = state.document.layer(layer)
        if found is None:
            raise Missing("There is no such layer.")
        data = pictures.thumbnail(studio.evaluation(state), found, side)
        return Response(data, media_type="image/png", headers={"Cache-Control": "no-cache"})

    @app.get("/api/projects/{project}/poster.jpg", response_class=Response)
    def poster(project: str, height: Annotated[int, Query(ge=32, le=960)] = 240) -> Response:
        """A frame that stands for the piece."""
        evaluation = studio.evaluation(studio.state(project))
        if evaluation.length == 0:
            raise Missing("There is nothing in this piece yet.")
        data = pictures.poster(evaluation, height)
        return Response(data, media_type="image/jpeg", headers={"Cache-Control": "no-cache"})

    @app.get("/api/projects/{project}/sound.wav", response_class=Response)
    def sound(project: str) -> Response:
        """The sound of the whole piece."""
        out = io.BytesIO()
        write_wav(out, mix(studio.evaluation(studio.state(project)), studio.sound_of))
        return Response(out.getvalue(), media_type="audio/wav", headers={"Cache-Control": "no-cache"})

    @app.get("/api/projects/{project}/peaks")
    def peaks(project: str, points: Annotated[int, Query(ge=1, le=4000)] = 600) -> list[float]:
        """The loudest sample, 0…1, of each of so many equal parts of the piece."""
        track = np.abs(mix(studio.evaluation(studio.state(project)), studio.sound_of)).max(0)
        return [float(part.max()) if len(part) else 0.0 for part in np.array_split(track, points)]

    # -- carving -------------------------------------------------------------------------------------------

    def document_with(project: str, hold: str) -> tuple[Document, Hold]:
        document = studio.state(project).document
        if hold not in document.holds:
            raise Missing("That hold is no longer there. Choose another.")
        return document, document.holds[hold]

    def hold_of(project: str, hold: str) -> tuple[Hold, Shot]:
        document, found = document_with(project, hold)
        return found, document.shots[found.shot]

    @app.post("/api/projects/{project}/holds/{hold}/find")
    def find(project: str, hold: str, body: FindRequest) -> Finding:
        """Finds the subject in a frame by marks, or corrects a pick with them: the piece to put into the matte."""
        return carving.find(studio, *document_with(project, hold), body)

    @app.post("/api/projects/{project}/holds/{hold}/look-ahead", status_code=202)
    def look_ahead(project: str, hold: str, frame: Annotated[int, Query(ge=0)]) -> None:
        """Begins to work out what marks in a frame will ask, as somebody has come to carve there."""
        document, found = document_with(project, hold)
        ahead.start(lambda: carving.look_ahead(studio, document, found, frame))

    @app.post("/api/projects/{project}/holds/{hold}/find-job")
    def start_find(project: str, hold: str, body: FindRequest) -> JobView:
        """The same in the background, for what takes a while; the job's result is the finding."""
        document, found = document_with(project, hold)

        def task(progress) -> dict:
            return carving.find(studio, document, found, body, progress).model_dump(mode="json")

        return quick.start("find", project, f"{carving.NAMES[body.kind]} in {found.name}", task)

    @app.post("/api/projects/{project}/holds/{hold}/outline")
    def outline(project: str, hold: str, body: OutlineRequest) -> list[Shape]:
        """A found piece as pen pieces with few points."""
        found, shot = hold_of(project, hold)
        alpha = piece_alpha(body.piece, shot.height, shot.width, studio.library.alpha)
        shapes = outlines(alpha, body.tolerance)
        if not shapes:
            raise Refusal("There is no outline to draw: the piece is empty, or fainter than one half everywhere.")
        return shapes

    @app.post("/api/path")
    def path(body: PathRequest) -> list[Node]:
        """A line drawn by hand, closed, as a path with few points."""
        line = np.array(body.points, float)
        if np.ptp(line, axis=0).max() < 2:
            raise Refusal("That shape is too small to see. Draw it larger, or zoom in.")
        return fitted(even_chain(line), body.tolerance)

    @app.get("/api/rasters/{file}.png", response_class=FileResponse)
    def raster(file: str) -> FileResponse:
        """A stored alpha or plate."""
        place = studio.files.path(file) if HASH.fullmatch(file) else None
        if place is None or not place.is_file() or place.open("rb").read(4) != b"\x89PNG":
            raise Missing("There is no such picture.")
        return FileResponse(place, media_type="image/png", headers=FOREVER)

    async def received(request: Request, name: str, what: str) -> bytes:
        data = b""
        async for block in request.stream():
            data += block
            if len(data) > MAX_MATTE:
                raise HTTPException(413, f"{name} is larger than {MAX_MATTE >> 20} MB, too large for {what}.")
        return data

    @app.get("/api/projects/{project}/holds/{hold}/matte.svg", response_class=Response)
    def matte_svg(project: str, hold: str) -> Response:
        """The hold's matte as SVG paths, in source pixels."""
        found, shot = hold_of(project, hold)
        data = carving.as_svg(studio, shot, found.matte)
        return _download(data.encode(), "image/svg+xml", f"{found.name}.svg")

    @app.get("/api/projects/{project}/holds/{hold}/matte.png", response_class=Response)
    def matte_png(project: str, hold: str) -> Response:
        """The hold's matte as a 16-bit grey picture of the source's size."""
        found, shot = hold_of(project, hold)
        alpha = studio.renderer.mattes.alpha(shot, found.frame, found.matte)
        data = cv2.imencode(".png", np.round(alpha * 65535).astype(np.uint16))[1].tobytes()
        return _download(data, "image/png", f"{found.name}.png")

    @app.post("/api/projects/{project}/holds/{hold}/pieces")
    async def read_pieces(project: str, hold: str, request: Request, name: str = Query(max_length=300)) -> list[Piece]:
        """Reads the request's body, an SVG document or a grey picture, as pieces to put into the matte."""
        _, shot = hold_of(project, hold)
        data = await received(request, name, "a matte")
        return await run_in_threadpool(carving.read_pieces, studio, shot, data, name)

    @app.post("/api/projects/{project}/holds/{hold}/carry")
    def start_carry(project: str, hold: str, body: CarryRequest) -> JobView:
        """Carries the hold's matte through its range, or to moments; stopped, it goes on from there the next time."""
        found, _ = hold_of(project, hold)

        def told() -> None:
            hub.tell(project, {"type": "changed", "revision": studio.projects.revision(project)})

        def task(progress) -> dict:
            if body.to == "range":
                return carrying.through(studio, project, hold, body.again, progress, told)
            return carrying.to_moments(studio, project, hold, body.to == "next", progress, told)

        return steady.start("carry", project, f"Carry {found.name}", task)

    @app.post("/api/projects/{project}/holds/{hold}/plate")
    def start_plate(project: str, hold: str, body: PlateRequest) -> JobView:
        """Builds the plate behind a hold and gives it to the hold."""
        found, shot = hold_of(project, hold)

        def task(progress) -> dict:
            made = plates.make(studio, shot, found.frame, body, progress)
            state = studio.edit(project, SetPlate(hold=hold, plate=made.plate), None)
            hub.tell(project, {"type": "changed", "revision": state.revision})
            return made.model_dump(mode="json")

        return steady.start("plate", project, f"Plate behind {found.name}", task)

    @app.post("/api/projects/{project}/holds/{hold}/plate/picture")
    async def read_plate(project: str, hold: str, request: Request, name: str = Query(max_length=300)) -> Plate:
        """Takes the request's body, a picture, as a plate: to be given to the hold."""
        _, shot = hold_of(project, hold)
        data = await received(request, name, "a plate")
        return await run_in_threadpool(plates.read, studio, shot, data, name)

    @app.post("/api/projects/{project}/holds/{hold}/plate/mend")
    def mend_plate(project: str, hold: str, body: MendRequest) -> Plate:
        """The hold's plate with what lies under a stroke replaced: to be given to the hold."""
        found, shot = hold_of(project, hold)
        if found.plate is None:
            raise Refusal("There is no plate behind this hold yet. Build one first.")
        return plates.mend(studio, shot, found.frame, found.plate, body)

    @app.get("/api/projects/{project}/holds/{hold}/plate.png", response_class=FileResponse)
    def plate_png(project: str, hold: str) -> FileResponse:
        """The hold's plate, to take along."""
        found, _ = hold_of(project, hold)
        if found.plate is None:
            raise Missing("There is no plate behind this hold yet. Build one first.")
        return FileResponse(studio.files.path(found.plate), media_type="image/png", filename=f"{found.name} plate.png")

    @app.get("/api/mattes")
    def saved_mattes() -> list[SavedMatte]:
        """The mattes on the shelf, of all projects."""
        return studio.mattes.list()

    @app.post("/api/mattes")
    def save_matte(body: SaveMatte) -> SavedMatte:
        """Puts a hold's matte, or some of its pieces, on the shelf."""
        found, shot = hold_of(body.project, body.hold)
        matte = found.matte
        if body.pieces is not None:
            matte = matte.model_copy(update={"pieces": [p for p in matte.pieces if p.id in body.pieces]})
        if not matte.pieces:
            raise Refusal("There is nothing in this matte yet. Draw a piece first.")
        return studio.mattes.add(body.name, shot.width, shot.height, matte)

    @app.delete("/api/mattes/{matte}", status_code=204)
    def forget_matte(matte: str) -> None:
        studio.mattes.remove(matte)

    # -- sending -------------------------------------------------------------------------------------------

    @app.post("/api/projects/{project}/exports")
    def start_export(project: str, body: ExportRequest) -> JobView:
        document = studio.state(project).document
        if body.quality not in QUALITY:
            raise Refusal(f"There is no quality “{body.quality}”; there are {', '.join(QUALITY)}.")

        def task(progress) -> dict:
            out = studio.export_path(document)
            studio.export(document, out, body.range, Settings(quality=body.quality), progress)
            return {"file": out.name, "size": out.stat().st_size}

        return work.start("export", project, f"Send {document.project.name}", task)

    @app.get("/api/projects/{project}/jobs")
    def list_jobs(project: str) -> list[JobView]:
        return [doers[j.kind].view(j) for j in studio.jobs.of_project(project)]

    def job_of(job: str):
        try:
            return studio.jobs.get(job)
        except KeyError as error:
            raise Missing("There is no such job.") from error

    @app.post("/api/jobs/{job}/cancel")
    def cancel(job: str) -> JobView:
        found = job_of(job)
        return doers[found.kind].cancel(found.id)

    @app.get("/api/jobs/{job}/file", response_class=FileResponse)
    def exported(job: str) -> FileResponse:
        """The file that an export wrote."""
        found = job_of(job)
        path = studio.exports / str((found.result or {}).get("file", ""))
        if found.kind != "export" or found.state != "done" or not path.is_file():
            raise Missing("That file is no longer there. Send the piece again.")
        return FileResponse(path, media_type="video/mp4", filename=path.name)

    # -- the page ------------------------------------------------------------------------------------------

    @app.websocket("/api/projects/{project}/live")
    async def preview(socket: WebSocket, project: str) -> None:
        await live.serve(socket, project)

    if PAGE.is_dir():
        app.mount("/", StaticFiles(directory=PAGE, html=True), name="page")
    return app

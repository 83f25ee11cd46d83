"""Clean plates: built, read in, mended, taken along."""

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse

from ...core.change.edits import SetPlate
from ...core.common.errors import Refusal
from ...store.projects import Missing
from ...studio import plates
from ...studio.plates import MendRequest, Plate, PlateRequest
from ..answers import bounded_router, received
from ..desk import Desk
from ..messages import JobView

MAX_PLATE = 64 << 20


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    @router.post("/api/projects/{project}/holds/{hold}/plate")
    def start_plate(project: str, hold: str, body: PlateRequest) -> JobView:
        """Builds the plate behind a hold and gives it to the hold."""
        found, shot = desk.hold(project, hold)

        def task(progress) -> dict:
            made = plates.make(studio, shot, found, body, progress)
            state = studio.edit(project, SetPlate(hold=hold, plate=made.plate), None)
            desk.tell(project, state.revision)
            return made.model_dump(mode="json")

        return desk.work.start("plate", project, f"Plate behind {found.name}", task)

    @router.post("/api/projects/{project}/holds/{hold}/plate/picture")
    async def read_plate(project: str, hold: str, request: Request, name: str = Query(max_length=300)) -> Plate:
        """Takes the request's body, a picture, as a plate: to be given to the hold."""
        _, shot = await run_in_threadpool(desk.hold, project, hold)
        data = await received(request, name, "a plate", MAX_PLATE)
        return await run_in_threadpool(plates.read, studio, shot, data, name)

    @router.post("/api/projects/{project}/holds/{hold}/plate/mend")
    def mend_plate(project: str, hold: str, body: MendRequest) -> Plate:
        """The hold's plate with what lies under a stroke replaced: to be given to the hold."""
        found, shot = desk.hold(project, hold)
        if found.plate is None:
            raise Refusal("There is no plate behind this hold yet. Build one first.")
        return plates.mend(studio, shot, found.frame, found.plate, body)

    @router.get("/api/projects/{project}/holds/{hold}/plate.png", response_class=FileResponse)
    def plate_png(project: str, hold: str) -> FileResponse:
        """The hold's plate, to take along."""
        found, _ = desk.hold(project, hold)
        if found.plate is None:
            raise Missing("There is no plate behind this hold yet. Build one first.")
        return FileResponse(studio.files.path(found.plate), media_type="image/png", filename=f"{found.name} plate.png")

    return router

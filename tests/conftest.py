"""Footage and documents that many tests share."""

from fractions import Fraction
from pathlib import Path

import pytest

from nervykite.core.change.edits import AddShot, ChangeMatte, HoldFrame
from nervykite.core.piece.model import Document, Matte, Node, Project, Shape, Shot
from nervykite.core.piece.model.base import new_id
from nervykite.core.see.footage import ingest
from nervykite.core.see.footage.library import Library
from nervykite.studio import Studio

from .media import make_video
from .proved import (  # noqa: F401 hooks of every run
    pytest_addoption,
    pytest_collection_modifyitems,
    pytest_runtest_setup,
)
from .shared import made_once, own_copy
from .timing import (  # noqa: F401 hooks of every run
    pytest_fixture_setup,
    pytest_runtest_logreport,
    pytest_runtest_makereport,
    pytest_terminal_summary,
)


class Reel:
    """A shot of a file, ready to be read."""

    def __init__(self, path: Path, folder: Path) -> None:
        proxy = folder / f"{path.name}.proxy"
        with proxy.open("wb") as out:
            self.probe = ingest.ingest(path, path.name, out)
        p = self.probe
        self.files = {"file": path, "proxy": proxy}
        self.shot = Shot(
            name=path.stem, file="file", proxy_file="proxy", width=p.width, height=p.height, rate=p.rate,
            variable=p.variable, tick=str(p.tick), ticks=p.ticks, colour=p.colour, depth=p.depth,
            rotation=p.rotation, note=p.note,
        )  # fmt: skip

    def library(self) -> Library:
        """A library that knows this shot's files."""
        return Library(lambda name: self.files[name])

    def document(self, rate: Fraction | None = None) -> Document:
        """A project with the shot on its ground."""
        document = AddShot(shot=self.shot).apply(Document(project=Project(name="Test")))
        if rate is not None:
            document = document.model_copy(update={"project": document.project.model_copy(update={"rate": rate})})
        return document


@pytest.fixture
def reel(tmp_path):
    """Makes a reel of a file made with the given arguments of `make_video`."""

    def make(name: str = "clip.mp4", **arguments) -> Reel:
        return Reel(make_video(tmp_path / name, **arguments), tmp_path)

    return make


@pytest.fixture
def reel_of(tmp_path):
    """Makes a reel of a file that is there."""
    return lambda path: Reel(path, tmp_path)


def box(left: float, top: float, right: float, bottom: float, **more) -> Shape:
    """A rectangular pen piece."""
    corners = ((left, top), (right, top), (right, bottom), (left, bottom))
    return Shape(nodes=[Node(x=x, y=y) for x, y in corners], **more)


def held(document: Document, frame: int, matte: Matte | None = None, **more) -> tuple[Document, str]:
    """The document with a hold of a frame, carved with the matte; and the layer's id."""
    layer = new_id()
    item = document.project.ground[0].id
    document = HoldFrame(item=item, frame=frame, layer=layer, **more).apply(document)
    if matte is not None:
        document = ChangeMatte(hold=document.layer(layer).source.hold, matte=matte).apply(document)
    return document, layer


@pytest.fixture(scope="session")
def empty(tmp_path_factory):
    """An empty data folder, to be copied."""
    return made_once(tmp_path_factory, "empty", lambda folder: Studio(folder).close())


@pytest.fixture
def stocked(empty):
    """The data folder that a test's studio begins with."""
    return empty


@pytest.fixture
def studio(stocked, tmp_path, request):
    """A studio over a copy of a data folder; it looks shots through by itself where a test is marked with `watches`."""
    watches = request.node.get_closest_marker("watches") is not None
    studio = Studio(own_copy(stocked, tmp_path / "data"), watches=watches)
    yield studio
    studio.close()

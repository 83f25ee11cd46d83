"""A client of the API, and a project behind it."""

import os
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from nervykite.demo.demo_project import add_demo
from nervykite.server.app import create_app
from nervykite.studio import Studio

from ..media import make_video
from ..shared import made_once
from ..views import whole
from .api import BASE, upload


@pytest.fixture
def client(studio):
    with TestClient(create_app(studio), base_url=BASE) as client:
        yield client


@pytest.fixture(scope="session")
def numbers(tmp_path_factory):
    """A folder with a clip of 24 numbered frames, and a data folder with a project in which that clip was imported."""

    def make(folder: Path) -> None:
        clip = make_video(folder / "clip.mp4", sound=True)
        studio = Studio(folder / "data", watches=False)
        with TestClient(create_app(studio), base_url=BASE) as client:
            made = client.post("/api/projects", json={"name": "Relay"}).json()["project"]["id"]
            assert upload(client, made, clip)["state"] == "done"
        studio.close()

    return made_once(tmp_path_factory, "numbers", make)


@pytest.fixture
def stocked(request, empty, numbers):
    """For a test that uses `project` the folder in which that is, for any other an empty one."""
    found = request.node._fixtureinfo.name2fixturedefs.get("project")
    return numbers / "data" if found and found[-1].func is project.__wrapped__ else empty


@pytest.fixture
def project(client, numbers, tmp_path):
    """A project with one shot of 24 numbered frames, of `clip.mp4` in the test's folder."""
    os.link(numbers / "clip.mp4", tmp_path / "clip.mp4")
    (entry,) = client.get("/api/projects").json()
    return whole(client.get(f"/api/projects/{entry['id']}").json())


@pytest.fixture(scope="session")
def relay(tmp_path_factory):
    """A data folder with the demo piece, to be copied."""

    def make(folder: Path) -> None:
        studio = Studio(folder)
        add_demo(studio)
        studio.close()

    return made_once(tmp_path_factory, "relay", make)

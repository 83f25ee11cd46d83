"""A client of the API, and a project behind it."""

from pathlib import Path

import pytest
from starlette.testclient import TestClient

from nervykite.demo.project import add_demo
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


@pytest.fixture
def project(client, tmp_path):
    """A project with one shot of 24 numbered frames."""
    made = client.post("/api/projects", json={"name": "Relay"}).json()["project"]["id"]
    assert upload(client, made, make_video(tmp_path / "clip.mp4", sound=True))["state"] == "done"
    return whole(client.get(f"/api/projects/{made}").json())


@pytest.fixture(scope="session")
def relay(tmp_path_factory):
    """A data folder with the demo piece, to be copied."""

    def make(folder: Path) -> None:
        studio = Studio(folder)
        add_demo(studio)
        studio.close()

    return made_once(tmp_path_factory, "relay", make)

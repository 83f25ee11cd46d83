"""`nervykite doctor` finds what is wrong with a data folder, and says what to do."""

import json
import logging
import os
from pathlib import Path

import pytest

from nervykite.cli import main
from nervykite.core.change.edits import HoldFrame
from nervykite.studio import Studio
from nervykite.studio.claim import Claim
from nervykite.studio.doctor import examine
from nervykite.studio.importing import import_shot
from nervykite.studio.logs import LARGEST, log_file, log_to

from .media import make_video


@pytest.fixture
def folder(tmp_path):
    """A data folder with a project."""
    studio = Studio(tmp_path / "data")
    project = studio.projects.new("Relay").document.project.id
    state = import_shot(studio, project, studio.keep_file(make_video(tmp_path / "clip.mp4")), "clip.mp4")[1]
    studio.edit(project, HoldFrame(item=state.document.project.ground[0].id, frame=6), None)
    studio.close()
    return tmp_path / "data"


@pytest.fixture
def page(tmp_path):
    """A built page."""
    assets = tmp_path / "page" / "assets"
    assets.mkdir(parents=True)
    (assets.parent / "index.html").write_text("<html>")
    (assets / "figtree.woff2").write_bytes(b"font")
    return assets.parent


def found(folder: Path, page: Path, state: str, thorough: bool = False) -> dict[str, str]:
    return {f.what: f.sentence for f in examine(folder, page, thorough) if f.state == state}


def test_all_is_well(folder, page):
    assert found(folder, page, "trouble", thorough=True) == {}
    well = found(folder, page, "well")
    assert well["projects"] == "1 can be shown."
    assert set(well) == {"disk", "database", "projects", "files", "room", "codecs", "networks", "page"}


def test_a_file_that_is_gone_or_changed(folder, page):
    first, second = sorted((folder / "files").glob("??/*"))
    first.unlink()
    assert "A file of clip is gone or damaged. Import it again" in found(folder, page, "trouble")["files"]
    data = bytearray(second.read_bytes())
    data[40] ^= 1
    first.write_bytes(b"")
    second.write_bytes(data)
    troubles = [f for f in examine(folder, page, True) if f.what == "files"]
    assert len(troubles) == 2


def test_a_project_that_cannot_be_shown(folder, page):
    studio = Studio(folder)
    with studio.database.writing() as connection:
        connection.execute("UPDATE layers SET arrangement = 'sideways'")
    studio.close()
    assert found(folder, page, "trouble") == {
        "projects": "Relay cannot be shown. Open it on the page, and take back its last steps."
    }


def test_a_damaged_database(folder, page, capsys):
    path = folder / "nervykite.sqlite"
    data = bytearray(path.read_bytes())
    data[4096 * 3 : 4096 * 6] = b"\xa5" * (4096 * 3)
    path.write_bytes(data)
    for leftover in folder.glob("nervykite.sqlite-*"):
        leftover.unlink()
    assert main(["doctor", "--data", str(folder)]) == 1
    said = capsys.readouterr()
    assert "backup" in said.out + said.err


def test_what_nobody_needs_is_given_back_unless_a_server_is_at_work(folder, page):
    lost = folder / "files" / "ab" / ("ab" * 32)
    lost.parent.mkdir(exist_ok=True)
    lost.write_bytes(bytes(2_000_000))
    os.utime(lost, (0, 0))
    claim = Claim(folder)
    assert "A server is using this folder" in found(folder, page, "well")["server"]
    claim.release()
    assert lost.exists()
    assert found(folder, page, "mended") == {"room": "1 files that nobody needs were removed, 2.0 MB."}
    assert not lost.exists()


def test_a_page_without_its_fonts(folder, page):
    for font in page.glob("assets/*"):
        font.unlink()
    assert "fonts" in found(folder, page, "trouble")["page"]
    (page / "index.html").unlink()
    assert "make setup" in found(folder, page, "trouble")["page"]


def test_the_command_says_it_in_lines_or_json(folder, capsys):
    assert main(["doctor", "--data", str(folder)]) == 0
    assert "projects   1 can be shown." in capsys.readouterr().out
    main(["doctor", "--data", str(folder), "--json"])
    assert {"what": "database", "state": "well", "sentence": "It is whole."} in json.loads(capsys.readouterr().out)


def test_the_log_stays_small(tmp_path):
    log_to(tmp_path)
    logger = logging.getLogger("nervykite")
    try:
        for _ in range(80):
            logger.warning("x" * 100_000)
    finally:
        for name in ("nervykite", "uvicorn.error"):
            handler = logging.getLogger(name).handlers[-1]
            logging.getLogger(name).removeHandler(handler)
        handler.close()
    files = list(log_file(tmp_path).parent.iterdir())
    assert len(files) == 5
    assert all(f.stat().st_size <= LARGEST for f in files)

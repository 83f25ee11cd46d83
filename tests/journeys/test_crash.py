"""The real program, killed in the middle of sending: nothing half is left, and it says what happened."""

import json
import sqlite3
import time
import urllib.request

import pytest

from nervykite.core.see.footage import loose

pytestmark = pytest.mark.journey


def call(server, path: str, body: dict | None = None):
    request = urllib.request.Request(
        f"{server.url}api/{path}",
        data=None if body is None else json.dumps(body).encode(),
        headers={"Content-Type": "application/json"},
    )
    with urllib.request.urlopen(request, timeout=10) as answer:
        return json.load(answer)


def test_killed_while_sending(process):
    (entry,) = call(process, "projects")
    project = f"projects/{entry['id']}"
    view = call(process, project)
    call(process, f"{project}/exports", {"quality": "fine"})
    deadline = time.monotonic() + 60
    while call(process, f"{project}/jobs")[0]["progress"] == 0 and time.monotonic() < deadline:
        time.sleep(0.02)
    assert call(process, f"{project}/jobs")[0]["state"] == "running"
    process.kill()
    exports = process.data / "exports"
    assert [p.name for p in exports.iterdir() if not p.name.startswith(".")] == []
    with sqlite3.connect(process.data / "nervykite.sqlite") as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        assert connection.execute("PRAGMA foreign_key_check").fetchall() == []
    process.start()
    # It is taken up again, and nothing half is left of what was broken off.
    deadline = time.monotonic() + 120
    while True:
        (job,) = [j for j in call(process, f"{project}/jobs") if j["kind"] == "export"]
        if job["state"] not in ("waiting", "running") or time.monotonic() > deadline:
            break
        time.sleep(0.1)
    assert job["state"] == "done", job
    assert [p.name for p in exports.iterdir()] == [job["result"]["file"]]
    assert len(list(loose.frames(exports / job["result"]["file"]))) == view["length"]
    again = call(process, project)
    assert again["project"] == view["project"]
    assert again["holds"] == view["holds"]

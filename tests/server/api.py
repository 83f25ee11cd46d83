"""What tests ask of the API, in few words."""

import json
import struct
import time

import numpy as np

from ..views import whole

HOST = "127.0.0.1:8457"
BASE = f"http://{HOST}"


def wait_for(client, job: dict, seconds: float = 60) -> dict:
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        found = next(j for j in client.get(f"/api/projects/{job['project']}/jobs").json() if j["id"] == job["id"])
        if found["state"] not in ("waiting", "running"):
            return found
        time.sleep(0.03)
    raise TimeoutError


def upload(client, project: str, path) -> dict:
    answer = client.post(f"/api/projects/{project}/shots", params={"name": path.name}, content=path.read_bytes())
    assert answer.status_code == 200
    return wait_for(client, answer.json())


def edit(client, view: dict, **body) -> dict:
    url = f"/api/projects/{view['project']['id']}"
    answer = client.post(f"{url}/edits", json={"revision": view["revision"], "edit": body})
    assert answer.status_code == 200, answer.text
    return whole(answer.json(), view)


def box_matte(left, top, right, bottom) -> dict:
    corners = [(left, top), (right, top), (right, bottom), (left, bottom)]
    return {"pieces": [{"kind": "pen", "name": "Body", "nodes": [{"x": x, "y": y} for x, y in corners]}]}


def carved(client, view: dict, frame: int = 6) -> dict:
    view = edit(client, view, kind="hold", item=view["project"]["ground"][0]["id"], frame=frame)
    hold = view["project"]["layers"][-1]["source"]["hold"]
    return edit(client, view, kind="change matte", hold=hold, matte=box_matte(30, 20, 130, 100))


def sound(client, project: str) -> np.ndarray:
    """The sound of a piece as it is heard, float32 (n, 2)."""
    url = f"/api/projects/{project}/sound"
    blocks = client.get(url).json()["blocks"]
    data = [client.get(f"{url}/{n}", params={"key": key}).content for n, key in enumerate(blocks)]
    return np.concatenate([np.frombuffer(d, "<f4")[75:].reshape(2, -1) for d in data], 1).T


def listening(client, view: dict):
    return client.websocket_connect(f"/api/projects/{view['project']['id']}/live", headers={"host": HOST})


def unpack(data: bytes) -> tuple[dict, bytes]:
    (length,) = struct.unpack("<I", data[:4])
    return json.loads(data[4 : 4 + length]), data[4 + length :]


def drawn(socket) -> tuple[dict, bytes]:
    """The next picture; what is told in between (of a shot being looked through) is passed over."""
    while (data := socket.receive().get("bytes")) is None:
        pass
    return unpack(data)

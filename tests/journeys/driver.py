"""Words for what a person does on the page."""

import base64
import json
import re
import time
import urllib.request
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Page, expect

from nervykite.core.see.footage import loose
from nervykite.demo import FOOTAGE

from ..views import whole

CLIP = FOOTAGE / "dune-run.mp4"

RUN = 24
"""Frames at most so far apart are sent in one go."""
# Asked at every frame that the page draws: what is looked at now and then is noticed up to a second late.
SETTLED = """() => {
  const page = document.documentElement.dataset
  const canvas = document.querySelector('[data-testid=picture] canvas')?.dataset
  return page.saving === 'no' && canvas?.draft === 'no' && canvas.version === (page.version ?? '0')
}"""
SHOWN = "frame => document.querySelector('[data-testid=picture] canvas')?.dataset.frame === frame"


class Maker:
    """A maker at the page, with mouse and keyboard."""

    def __init__(self, page: Page, url: str, project: str = "") -> None:
        self.page, self.url = page, url
        page.goto(f"{url}#{project}" if project else url)

    @classmethod
    def at(cls, page: Page, url: str, name: str, hidden: Sequence[str] = ()) -> "Maker":
        """At a project, as by its address; some of its layers are hidden."""
        project = next(p["id"] for p in _asked(f"{url}api/projects") if p["name"] == name)
        if hidden:
            view = _asked(f"{url}api/projects/{project}")
            layers = [x["id"] for x in view["layers"].values() if x["name"] in hidden]
            assert len(layers) == len(hidden)
            edits = [{"kind": "change layer", "layer": x, "visible": False} for x in layers]
            _edited(url, view, {"kind": "several", "edits": edits})
        maker = cls(page, url, project)
        expect(page.get_by_test_id("picture")).to_be_visible()
        return maker

    @classmethod
    def over(cls, page: Page, url: str, name: str, *files: Path) -> "Maker":
        """At a new project of that name, into which files were imported from elsewhere, one after the other."""
        project = _asked(f"{url}api/projects", {"name": name})["project"]["id"]
        for file in files:
            job = _asked(f"{url}api/projects/{project}/shots?name={file.name}", file.read_bytes())["id"]
            while (now := _state(url, project, job)) not in ("done", "failed"):
                time.sleep(0.02)
            assert now == "done"
        return cls.at(page, url, name)

    def new_project(self, name: str, asked: bool = False) -> None:
        """Makes a project and names it, and goes to Catch, or stays where it is asked what to make."""
        self.page.get_by_role("button", name="New project").first.click()
        expect(self.page.get_by_label("Steps")).to_be_visible()
        field = self.page.get_by_role("button", name=re.compile("^Project name"))
        field.focus()
        field.press("Enter")
        self.page.get_by_label("Project name").fill(name)
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("button", name=f"Project name: {name}. Enter renames")).to_be_visible()
        expect(self.page.get_by_text("What do you want to make?")).to_be_visible()
        if not asked:
            self.step("Catch")

    def open(self, name: str) -> None:
        """Opens a project from the list."""
        self.page.get_by_role("button", name=f"Open {name}", exact=True).click()
        expect(self.page.get_by_test_id("picture")).to_be_visible()

    def import_file(self, path: Path) -> None:
        """Chooses a file in the dialog and waits until its footage lies on the ground."""
        with self.page.expect_file_chooser() as chooser:
            self.page.get_by_role("button", name="Import a video").first.click()
        chooser.value.set_files(path)
        expect(self.page.get_by_role("button", name=f"Footage {path.stem}").last).to_be_visible(timeout=60_000)

    def drop_file(self, path: Path) -> None:
        """Drops a file on the page."""
        data = self.page.evaluate_handle("() => new DataTransfer()")
        content = base64.b64encode(path.read_bytes()).decode()
        self.page.evaluate(
            "([t, text, name]) => t.items.add(new File([Uint8Array.from(atob(text), (c) => c.charCodeAt(0))], name))",
            [data, content, path.name],
        )
        target = self.page.locator("header")
        target.dispatch_event("dragover", {"dataTransfer": data})
        target.dispatch_event("drop", {"dataTransfer": data})

    def step(self, name: str) -> None:
        """Goes to a step."""
        self.page.get_by_label("Steps").get_by_role("button", name=name).click()

    def to_frame(self, frame: int) -> None:
        """Steps to a frame with the keyboard, and waits for its picture."""
        self.page.keyboard.press("Home")
        for _ in range(frame // 10):
            self.page.keyboard.press("Shift+ArrowRight")
        for _ in range(frame % 10):
            self.page.keyboard.press("ArrowRight")
        self.page.wait_for_function(SHOWN, arg=str(frame), timeout=60_000)

    def loop(self) -> None:
        """Has all of the piece played round and round."""
        ruler = self.page.get_by_test_id("ruler").bounding_box()
        self.page.keyboard.down("Shift")
        self.drag((ruler["x"] + 1, ruler["y"] + 12), (ruler["x"] + ruler["width"] - 2, ruler["y"] + 12), steps=4)
        self.page.keyboard.up("Shift")
        self.settled()

    def hide(self, layer: str) -> None:
        """Hides a layer with its eye, which shows while the pointer is over its lane."""
        lane = self.page.locator(f'[data-layer="{layer}"]')
        eye = self.page.get_by_role("button", name=f"Hide {layer}", exact=True)
        for _ in range(3):
            lane.hover()
            if eye.count():
                break
            # Lanes that have just moved under a pointer that rests do not know of it yet.
            self.page.mouse.move(640, 400)
        eye.click()
        self.settled()

    def put_on(self, family: str, finish: str) -> None:
        """Puts a finish of a family on what is dressed."""
        self.page.get_by_role("radiogroup", name="Family of finishes").get_by_role(
            "radio", name=family, exact=True
        ).click()
        self.page.get_by_role("button", name=finish, exact=True).first.click()
        self.settled()

    @property
    def canvas(self):
        """The picture's canvas."""
        return self.page.get_by_test_id("picture").locator("canvas")

    def settled(self) -> None:
        """Waits until all is saved and the picture shows it."""
        self.page.wait_for_function(SETTLED, timeout=60_000)
        expect(self.page.get_by_text("Saved", exact=True)).to_be_visible()

    def draw_around(self, points: list[tuple[float, float]]) -> None:
        """Draws a closed shape with the pen, in source pixels, and closes it on its first point."""
        stage = self.page.get_by_test_id("carve")
        self.page.get_by_role("button", name="Pen", exact=True).click()
        for at in self.on_stage_all([*points, points[0]]):
            self.page.mouse.click(*at)
        expect(stage).to_be_visible()

    def on_stage(self, x: float, y: float) -> tuple[float, float]:
        """Where a source pixel is on the screen."""
        return self.on_stage_all([(x, y)])[0]

    def on_stage_all(self, points: list[tuple[float, float]]) -> list[tuple[float, float]]:
        """Where source pixels are on the screen."""
        stage = self.page.get_by_test_id("carve")
        pan = json.loads(stage.get_attribute("data-pan"))
        box = stage.bounding_box()
        return [(box["x"] + pan["x"] + x * pan["scale"], box["y"] + pan["y"] + y * pan["scale"]) for x, y in points]

    def on_picture(self, x: float, y: float, size: tuple[int, int] = (720, 1280)) -> tuple[float, float]:
        """Where a canvas pixel is on the screen."""
        box = self.page.get_by_test_id("picture").bounding_box()
        return box["x"] + x / size[0] * box["width"], box["y"] + y / size[1] * box["height"]

    def drag(self, start: tuple[float, float], end: tuple[float, float], steps: int = 12) -> None:
        """Drags with the mouse."""
        self.page.mouse.move(*start)
        self.page.mouse.down()
        self.page.mouse.move(*end, steps=steps)
        self.page.mouse.up()

    def field(self, label: str, value: float) -> None:
        """Types a number into a field."""
        field = self.page.get_by_label(label, exact=True)
        field.fill(str(value))
        field.press("Enter")
        self.settled()

    def view(self) -> dict:
        """The open project, as the server has it."""
        project = self.page.url.split("#")[1]
        return whole(_asked(f"{self.url}api/projects/{project}"))

    def edit_elsewhere(self, **edit) -> None:
        """Makes an edit from elsewhere, as another page would, and waits until this one shows it."""
        shown, view = self.page.evaluate("document.documentElement.dataset.version"), self.view()
        _edited(self.url, view, edit)
        if self.view()["revision"] != view["revision"]:
            self.page.wait_for_function("shown => document.documentElement.dataset.version !== shown", arg=shown)
        self.settled()

    def sent(self, folder: Path, *frames: int) -> dict[int, np.ndarray]:
        """Frames of the piece as they are sent: uint8 R'G'B' (h, w, 3). No more of it is sent than they span."""
        wanted, shown = sorted(set(frames)), {}
        while wanted:
            run = [f for f in wanted if f - wanted[0] <= RUN]
            wanted = wanted[len(run) :]
            first, past = run[0], run[-1] + 2
            if past > self.view()["length"]:
                first, past = first - 1, past - 1
            for number, frame in enumerate(loose.frames(self.sent_part(folder, first, past)), first):
                if number in run:
                    shown[number] = loose.rgb(frame)
        return shown

    def sent_part(self, folder: Path, first: int, past: int) -> Path:
        """Frames first…past (half-open) of the piece, sent as its loop."""
        self.edit_elsewhere(kind="set loop", loop=[first, past])
        self.step("Send")
        self.page.get_by_role("radio", name="Loop only").click()
        return self.send(folder)

    def small(self) -> None:
        """Has the piece sent as small as can be chosen, where what is looked at is not its picture."""
        self.step("Send")
        sizes = self.page.get_by_label("Size", exact=True)
        values = [option.get_attribute("value") for option in sizes.locator("option").all()]
        sizes.select_option(min(filter(None, values), key=lambda size: int(size.split("x")[0])))

    def send(self, folder: Path) -> Path:
        """Sends the piece, or the part of it that was chosen, and downloads the file."""
        self.step("Send")
        self.page.get_by_role("radio", name="Fine").click()
        buttons = self.page.get_by_role("button", name="Download")
        before = buttons.count()
        self.page.get_by_role("button", name="Send", exact=True).last.click()
        expect(buttons).to_have_count(before + 1, timeout=160_000)
        with self.page.expect_download() as download:
            buttons.first.click()  # the newest
        path = folder / "sent.mp4"
        download.value.save_as(path)
        return path


def _asked(url: str, body: dict | bytes | None = None) -> Any:
    """What the server answers."""
    data = body if isinstance(body, bytes | None) else json.dumps(body).encode()
    kind = "application/octet-stream" if isinstance(body, bytes) else "application/json"
    with urllib.request.urlopen(urllib.request.Request(url, data, {"Content-Type": kind})) as answer:
        return json.load(answer)


def _edited(url: str, view: dict, edit: dict) -> None:
    """Makes an edit of a project that was seen so."""
    _asked(f"{url}api/projects/{view['project']['id']}/edits", {"revision": view["revision"], "edit": edit})


def _state(url: str, project: str, job: str) -> str:
    """How a job stands."""
    return next(j["state"] for j in _asked(f"{url}api/projects/{project}/jobs") if j["id"] == job)

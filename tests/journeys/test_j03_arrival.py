"""The first frame of one shot drops over the end of the one before, and lands on the cut."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose
from nervykite.core.see.matte.outline import outlines
from nervykite.demo import FOOTAGE

from ..truth import truth_alpha
from .driver import Maker

pytestmark = pytest.mark.journey
UP, DOWN = FOOTAGE / "kite-catch.mp4", FOOTAGE / "splash-down.mp4"


def test_she_drops_in_and_lands_where_the_next_shot_begins(page, server, tmp_path):
    page.set_default_timeout(90_000)
    maker = Maker(page, server.url)
    maker.new_project("Drop")
    maker.import_file(UP)
    maker.drop_file(DOWN)
    expect(page.get_by_role("button", name="Footage splash-down")).to_be_visible(timeout=60_000)
    maker.settled()
    cut = next(i["start"] for i in maker.view()["items"] if i["name"] == "splash-down")
    maker.step("Catch")
    maker.to_frame(cut)
    page.keyboard.press("h")
    expect(page.get_by_test_id("carve")).to_be_visible()
    body = max(outlines(truth_alpha("splash-down", 0), tolerance=3.0), key=lambda s: len(s.nodes))
    points = []
    for node in body.nodes:
        if all(np.hypot(node.x - x, node.y - y) > (24 if n else 32) for n, (x, y) in enumerate(points)):
            points.append((node.x, node.y))
    maker.draw_around(points)
    maker.settled()
    maker.step("Fly")
    page.get_by_role("radiogroup", name="Arrangement").get_by_role("radio", name="Arrival").click()
    maker.settled()
    view = maker.view()
    (layer,) = view["project"]["layers"]
    place = view["layers"][layer["id"]]
    assert (place["start"], place["end"], place["landing"]) == (cut - 15, cut, cut)
    # In one press: she falls in from above, and is at rest when the footage shows her.
    page.get_by_role("button", name="Drop", exact=True).click()
    maker.settled()
    maker.field("Frames", 15)
    maker.field("Overshoot", 0)
    keys = maker.view()["project"]["layers"][0]["keys"]
    assert [(k["channel"], k["tie"], k["offset"]) for k in keys] == [
        ("position", "landing", -15), ("position", "landing", 0),
    ]  # fmt: skip
    # The next to last frame is one key away from rest.
    maker.to_frame(cut - 1)
    page.get_by_role("button", name="Set position key").click()
    maker.settled()
    maker.field("Down", -40)
    keys = {k["offset"]: (k["tie"], k["value"]) for k in maker.view()["project"]["layers"][0]["keys"]}
    assert keys[-1] == ("landing", [0, -40])
    assert keys[-15][1][1] < -600
    # Without motion blur, so that she can be told from what lies behind her.
    page.get_by_role("radiogroup", name="Motion blur").get_by_role("radio", name="Off").click()
    maker.settled()

    last, landed = (f.astype(int) for f in maker.sent(tmp_path, cut - 1, cut).values())
    before = loose.around(UP, cut - 1, None)[0].astype(int)
    first = loose.around(DOWN, 0, None)[0].astype(int)
    # The cut itself is invisible: what is on screen from then on is the footage, subject and all.
    assert np.abs(landed - first).mean() < 2.5
    solid = cv2.erode((truth_alpha("splash-down", 0) > 0.95).astype(np.uint8), np.ones((15, 15))).astype(bool)
    moved = np.roll(solid, -40, 0)
    here, there = np.where(moved), np.where(solid)
    assert len(here[0]) == len(there[0]) > 2000
    # One frame before she is there already, forty pixels higher, over the shot before.
    assert np.abs(last[moved] - first[np.roll(moved, 40, 0)]).mean() < 8
    far = cv2.dilate(moved.astype(np.uint8), np.ones((151, 151))) == 0
    assert np.abs(last - before)[far].mean() < 3

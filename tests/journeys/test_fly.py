"""Fly: moves in one press, curves and paths by hand, behaviours, slow pushes, motion blur; and what is sent."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from .driver import Maker

pytestmark = pytest.mark.journey


@pytest.fixture
def maker(page, server):
    """The leaps, at Fly, one of them chosen."""
    page.set_default_timeout(90_000)
    maker = Maker.at(page, server.url, "Gull Point relay")
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    maker.step("Fly")
    return maker


def leap(maker: Maker, name: str = "Leap 2") -> tuple[dict, dict[str, list[int]]]:
    """A layer, and the frames of its keys by channel."""
    maker.settled()
    view = maker.view()
    layer = next(x for x in view["project"]["layers"] if x["name"] == name)
    frames = view["layers"][layer["id"]]["keys"]
    channels: dict[str, list[int]] = {}
    for key in layer["keys"]:
        channels.setdefault(key["channel"], []).append(frames[key["id"]])
    return layer, {c: sorted(f) for c, f in channels.items()}


def middle(locator) -> tuple[float, float]:
    box = locator.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_a_move_in_one_press_is_bent_by_hand_and_sent(page, maker, tmp_path):
    page.get_by_role("button", name="Rise", exact=True).click()
    maker.field("Overshoot", 0)
    maker.field("Frames", 10)
    layer, keys = leap(maker)
    assert (layer["entrance"]["kind"], keys["position"]) == ("rise", [58, 68])
    # Its last key goes four frames later, dragged in the curves.
    key = page.get_by_role("button", name="down key at frame 68")
    x, y = middle(key)
    first = middle(page.get_by_role("button", name="down key at frame 58"))[0]
    maker.drag((x, y), (x + 4 * (x - first) / 10, y))
    assert leap(maker)[1]["position"] == [58, 72]
    # The path is bent on the picture, by the handle of the key that it comes from.
    page.get_by_role("button", name="down key at frame 58").click()
    handle = page.locator("[data-testid=path] circle[data-side=leave]").first
    x, y = middle(handle)
    maker.drag((x, y), (x + 60, y))
    layer, _ = leap(maker)
    bend = next(k["bend"] for k in layer["keys"] if k["bend"])
    assert bend[2] == pytest.approx(60 * 720 / page.get_by_test_id("picture").bounding_box()["width"], abs=4)
    maker.to_frame(63)
    across = float(page.get_by_label("Across", exact=True).input_value())
    assert across > 3
    # Exactly home on its last frame, and blurred on its way.
    maker.to_frame(72)
    assert page.get_by_label("Across", exact=True).input_value() == "0"
    assert layer["blur"]["shutter"] == 180
    way, still = maker.sent(tmp_path, 61, 80).values()
    maker.step("Fly")
    page.get_by_role("radiogroup", name="Motion blur").get_by_role("radio", name="Off").click()
    maker.settled()
    (sharp,) = maker.sent(tmp_path, 61).values()
    edges = [cv2.Laplacian(f[..., 1], cv2.CV_64F)[700:].std() for f in (way, sharp)]
    assert edges[0] < 0.95 * edges[1]
    assert np.abs(way.astype(int) - still).mean() > 2


@pytest.mark.everything
def test_a_move_is_seen_in_the_picture_before_it_is_put_on(page, maker):
    maker.to_frame(58)
    before = maker.canvas.evaluate("c => c.toDataURL()")
    tile = page.get_by_role("button", name="Twirl", exact=True)
    x, y = middle(tile)
    page.mouse.move(x, y)
    page.mouse.move(x + 4, y + 2)
    page.wait_for_function(
        "() => document.querySelector('[data-testid=picture] canvas').dataset.rehearsed >= '60'", timeout=60_000
    )
    assert maker.canvas.evaluate("c => c.toDataURL()") != before
    assert leap(maker)[0]["entrance"] is None
    # Once the pointer is elsewhere, the picture is what it was.
    page.mouse.move(640, 790)
    page.wait_for_function("b => document.querySelector('[data-testid=picture] canvas').toDataURL() === b", arg=before)


def test_keys_are_chosen_by_a_rectangle_drawn_out_and_eased_together(page, maker):
    page.get_by_role("button", name="Pop", exact=True).click()
    maker.settled()
    before = leap(maker)[1]["scale"]
    curves = page.get_by_test_id("curves").bounding_box()
    firsts = middle(page.get_by_role("button", name=f"scale key at frame {before[0]}"))
    lasts = middle(page.get_by_role("button", name=f"scale key at frame {before[-1]}"))
    maker.drag((firsts[0] - 8, curves["y"] + 26), (lasts[0] + 8, curves["y"] + curves["height"] - 3))
    expect(page.get_by_text("keys chosen")).to_be_visible()
    x, y = middle(page.get_by_label("Draw out at the end"))
    per = (lasts[0] - firsts[0]) / (before[-1] - before[0])
    maker.drag((x, y), (x + 9 * per, y))
    after = leap(maker)[1]["scale"]
    assert (after[0], after[-1] - before[-1]) == (before[0], 9)
    page.get_by_role("radiogroup", name="Ready curves").get_by_role("radio", name="spring").click()
    layer, _ = leap(maker)
    assert {k["easing"]["kind"] for k in layer["keys"] if k["channel"] == "scale"} == {"spring"}
    maker.field("Damping", 8)
    assert {k["easing"]["damping"] for k in leap(maker)[0]["keys"] if k["channel"] == "scale"} == {8}
    page.keyboard.press("Delete")
    assert "scale" not in leap(maker)[1]
    page.keyboard.press("Control+z")
    assert leap(maker)[1]["scale"] == after
    # What came last comes first, and it leaves the way it came.
    page.get_by_role("button", name="Mirror as exit").click()
    layer, keys = leap(maker)
    assert {k["made"] for k in layer["keys"]} >= {"in", "out"}
    page.get_by_role("radio", name="Pace").click()
    expect(page.get_by_test_id("curves")).to_be_visible()


def test_the_ground_is_pushed_and_the_copy_the_other_way(page, maker, tmp_path):
    page.get_by_role("button", name="Footage Dune run").click()
    page.get_by_role("button", name="From here to there").click()
    expect(page.get_by_test_id("push")).to_be_visible()
    corner = page.locator("[data-push=end][data-corner=r]").last
    x, y = middle(corner)
    maker.drag((x, y), (x - 30, y - 50))
    page.get_by_label("What is pushed the other way").select_option(label="Leap 2")
    page.get_by_role("button", name="Push", exact=True).click()
    maker.settled()
    item = maker.view()["project"]["ground"][0]
    sizes = [k["value"][0] for k in item["keys"] if k["channel"] == "framing.scale"]
    assert sizes[0] == 1
    assert 1.15 < sizes[1] < 2
    _, keys = leap(maker)
    assert keys["scale"] == [58, 111]
    # The numbers are those at the playhead.
    page.get_by_role("button", name="Footage Dune run").click()
    maker.to_frame(131)
    expect(page.get_by_label("Size", exact=True)).to_have_value(f"{round(100 * sizes[1], 1):g}")
    far, last = (f.astype(int) for f in maker.sent(tmp_path, 0, 131).values())
    near = cv2.resize(far.astype(np.float32), None, fx=sizes[1], fy=sizes[1], interpolation=cv2.INTER_LINEAR)
    top, left = (near.shape[0] - 1280) // 2, (near.shape[1] - 720) // 2
    near = near[top : top + 1280, left : left + 720]
    sand = slice(1000, 1280)
    assert np.abs(last - near)[sand].mean() < 0.6 * np.abs(last - far)[sand].mean()

"""Dressing by hand: the chain in order, alone and kept; colours of the picture; a wash with a shape."""

import numpy as np
import pytest
from playwright.sync_api import expect

from ..media import make_video
from .driver import Maker

pytestmark = pytest.mark.journey


@pytest.fixture
def maker(page, server):
    """The demo piece at Dress, with its second leap chosen."""
    page.set_default_timeout(90_000)
    maker = Maker.at(page, server.url, "Gull Point relay")
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    maker.to_frame(75)
    maker.step("Dress")
    return maker


def worn(maker: Maker, name: str = "Leap 2") -> list[dict]:
    return next(x for x in maker.view()["project"]["layers"] if x["name"] == name)["finishes"]


@pytest.mark.everything
def test_resting_on_a_finish_shows_it_and_leaving_takes_it_back(page, maker):
    maker.settled()
    # Each tile is a picture of the very cutout.
    page.wait_for_function("() => [...document.querySelectorAll('img[src*=fitting]')].some((i) => i.naturalWidth > 20)")
    drawn = "draft => document.querySelector('[data-testid=picture] canvas').dataset.draft === draft"
    assert page.evaluate(drawn, "no")
    box = page.get_by_role("button", name="Glow", exact=True).bounding_box()
    page.mouse.move(box["x"] + 20, box["y"] + 20)
    page.mouse.move(box["x"] + 24, box["y"] + 24)
    page.wait_for_function(drawn, arg="yes")
    page.mouse.move(640, 480)
    page.wait_for_function(drawn, arg="no")
    assert [f["kind"] for f in worn(maker)] == ["outline"]


def test_colours_of_the_picture_and_of_the_clothes(page, maker):
    page.get_by_role("button", name="Pick from the picture").click()
    spot = maker.on_picture(360, 60)
    page.mouse.move(*spot)
    page.mouse.click(*spot)
    maker.settled()
    (picked,) = maker.view()["project"]["palette"]
    shown = page.evaluate(
        """() => {
          const c = document.querySelector('[data-testid=picture] canvas')
          return [...c.getContext('2d').getImageData(c.width / 2, c.height * 60 / 1280, 1, 1).data]
        }"""
    )
    rgb = [int(picked[i : i + 2], 16) for i in (1, 3, 5)]
    assert np.abs(np.array(rgb) - shown[:3]).max() < 14
    page.get_by_role("button", name="Keep #", exact=False).first.click()
    maker.settled()
    clothes = maker.view()["project"]["palette"][1]
    # It is offered where a colour is chosen, and taken with one press.
    page.get_by_role("button", name="Colour, picker").click()
    page.get_by_role("button", name=f"Take {clothes}").click()
    maker.settled()
    assert worn(maker)[0]["settings"]["colour"].upper() == clothes


def test_a_wash_is_kept_to_what_the_subject_does_not_cover(page, maker, tmp_path):
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Wash", exact=True).click()
    maker.settled()
    maker.put_on("Tone", "Invert")
    page.get_by_role("radio", name="A layer", exact=True).click()
    page.get_by_label("Layer", exact=True).select_option("Leap 2")
    maker.settled()
    outside = page.get_by_role("checkbox", name="Outside of it")
    page.locator("label").filter(has=outside).click()
    maker.settled()
    wash = next(x for x in maker.view()["project"]["layers"] if x["source"]["kind"] == "wash")
    assert (wash["source"]["where"], wash["source"]["outside"]) == ("cover", True)
    expect(page.locator(f'[data-layer="{wash["name"]}"]').get_by_text("wash: everything below")).to_be_visible()
    look = """([x, y]) => {
      const c = document.querySelector('[data-testid=picture] canvas')
      return [...c.getContext('2d').getImageData(c.width * x / 720, c.height * y / 1280, 1, 1).data]
    }"""
    sky = page.evaluate(look, [360, 60])
    page.get_by_role("button", name="Switch off Invert").click()
    maker.settled()
    plain = page.evaluate(look, [360, 60])
    assert np.abs(np.array(sky[:3]) + plain[:3] - 255).max() < 24


def test_light_falls_from_where_its_handle_is_put(page, maker):
    maker.put_on("Light", "Side light")
    handle = page.locator('[data-place="from_across"]')
    box = handle.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    before = worn(maker)[-1]["settings"]
    outline = page.get_by_test_id("handles").locator("[data-grip=move]").bounding_box()
    maker.drag((x, y), (x + outline["width"] / 4, y + outline["height"] / 5))
    maker.settled()
    now = worn(maker)[-1]["settings"]
    assert now["from_across"] == pytest.approx(before["from_across"] + 0.25, abs=0.02)
    assert now["from_down"] == pytest.approx(before["from_down"] + 0.2, abs=0.02)
    assert (now["to_across"], now["to_down"]) == (before["to_across"], before["to_down"])
    # With keys, a drag sets one.
    maker.to_frame(70)
    page.get_by_role("button", name="Set from, across key").click()
    maker.settled()
    maker.to_frame(80)
    box = handle.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    maker.drag((x, y), (x + 30, y))
    maker.settled()
    layer = next(x for x in maker.view()["project"]["layers"] if x["name"] == "Leap 2")
    assert len([k for k in layer["keys"] if k["channel"].endswith(".from_across")]) == 2


def test_beside_a_wide_picture_nothing_of_the_bench_is_cut_off(page, server, tmp_path):
    page.set_viewport_size({"width": 1280, "height": 800})
    clip = make_video(tmp_path / "wide.mp4", size=(640, 360))
    maker = Maker.over(page, server.url, "Wide", clip)
    maker.step("Dress")
    page.get_by_role("button", name="Dress the footage").click()
    maker.put_on("Tone", "Tone")
    maker.put_on("Lens", "Directional blur")
    for name in ("Tone", "Directional blur"):
        title = page.locator("[data-finish]").get_by_role("button", name=name, exact=True).bounding_box()
        assert title["width"] > 30
    bench = page.locator("[data-finish=directional-blur]").bounding_box()
    for label in ("Distance", "Angle"):
        field = page.get_by_label(label, exact=True).bounding_box()
        assert field["x"] + field["width"] < bench["x"] + bench["width"]
    # What lay at the side lies below.
    page.get_by_role("button", name="Pick from the picture").scroll_into_view_if_needed()
    palette = page.get_by_role("button", name="Pick from the picture").bounding_box()
    assert palette["x"] + palette["width"] < 1280

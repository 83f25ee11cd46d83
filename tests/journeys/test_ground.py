"""The ground cut up and put together on the page, by mouse and keyboard; every frame of the export says which it is."""

import json
import re

import pytest
from playwright.sync_api import Page, expect

from ..media import decode_luma, make_video, number_of, sound_of
from .driver import Maker

pytestmark = pytest.mark.journey


@pytest.fixture
def maker(page, server, tmp_path):
    """A maker with a project of two takes, of 40 and 30 frames that bear their numbers."""
    first, second = tmp_path / "first.mp4", tmp_path / "second.mp4"
    make_video(first, frames=40, size=(320, 480), sound=True)
    make_video(second, frames=30, size=(320, 480), sound=True)
    maker = Maker.over(page, server.url, "Ground", first, second)
    maker.step("Catch")
    return maker


def places(page: Page) -> list[tuple[str, str]]:
    """What lies in the ground, in order, and from which frame to which."""
    found = page.evaluate("[...document.querySelectorAll('[data-item]')].map(e => [e.dataset.item, e.dataset.place])")
    return sorted(map(tuple, found), key=lambda p: int(p[1].split(":")[0]))


def seen(maker: Maker, tmp_path) -> list[int]:
    """The numbers of the frames of the export."""
    return [number_of(frame) for frame in decode_luma(maker.send(tmp_path))]


def drag_end(page: Page, name: str, by: float) -> None:
    box = page.get_by_role("slider", name=name).bounding_box()
    x, y = box["x"] + 4, box["y"] + 20
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + by, y, steps=8)


def pixels_a_frame(page: Page) -> float:
    box = page.locator('[data-item^="first"]').first.bounding_box()
    return box["width"] / 40


class TestGround:
    def test_standing_still_and_going_on(self, page, maker, tmp_path):
        maker.to_frame(12)
        page.keyboard.press("t")
        expect(page.get_by_role("button", name="Standstill of first")).to_have_attribute("aria-pressed", "true")
        maker.settled()
        assert places(page)[:3] == [("first 1", "0:13"), ("Standstill of first", "13:43"), ("first 2", "43:70")]
        per = pixels_a_frame(page) * 40 / 13
        # The ripple is shown while its end is dragged, before anything is made.
        drag_end(page, "End of Standstill of first", -10 * per)
        expect(page.locator('[data-item="second"]')).to_have_attribute("data-place", re.compile("^60:"))
        assert maker.view()["length"] == 100
        page.mouse.up()
        maker.settled()
        numbers = seen(maker, tmp_path)
        stood = len(numbers) - 70
        assert 18 <= stood <= 22
        assert numbers == [*range(13), *[12] * stood, *range(13, 40), *range(30)]
        # Taken out again, the piece is what it was.
        maker.step("Catch")
        page.get_by_role("button", name="Standstill of first").click()
        page.keyboard.press("Delete")
        maker.settled()
        assert places(page) == [("first", "0:40"), ("second", "40:70")]

    def test_split_reordered_slipped_and_removed(self, page, maker, tmp_path):
        maker.to_frame(20)
        page.keyboard.press("x")
        maker.settled()
        assert places(page) == [("first 1", "0:20"), ("first 2", "20:40"), ("second", "40:70")]
        per = pixels_a_frame(page) * 2
        # The last one is dragged before the middle one.
        box = page.locator('[data-item="second"]').bounding_box()
        maker.drag((box["x"] + 30, box["y"] + 20), (box["x"] + 30 - 35 * per, box["y"] + 20))
        maker.settled()
        assert [name for name, _ in places(page)] == ["first 1", "second", "first 2"]
        # With Shift its frames are slipped under it.
        page.locator('[data-item="second"]').click()
        page.get_by_label("First frame", exact=True).fill("10")
        page.get_by_label("First frame", exact=True).press("Enter")
        maker.settled()
        box = page.locator('[data-item="second"]').bounding_box()
        page.keyboard.down("Shift")
        maker.drag((box["x"] + 30, box["y"] + 20), (box["x"] + 30 + 6 * per, box["y"] + 20))
        page.keyboard.up("Shift")
        maker.settled()
        first = int(page.get_by_label("First frame", exact=True).input_value())
        assert 3 <= first <= 5
        assert seen(maker, tmp_path) == [*range(20), *range(first, first + 20), *range(20, 40)]
        # Several at once.
        maker.step("Catch")
        page.locator('[data-item="first 1"]').click()
        page.locator('[data-item="second"]').click(modifiers=["Control"])
        page.keyboard.press("Delete")
        maker.settled()
        assert places(page) == [("first", "0:20")]
        page.keyboard.press("Control+z")
        maker.settled()
        assert len(places(page)) == 3

    def test_slow_motion_a_fade_and_a_colour(self, page, maker, tmp_path):
        page.locator('[data-item="second"]').click()
        speed = page.get_by_label("Speed", exact=True)
        speed.fill("50")
        speed.press("Enter")
        maker.settled()
        assert places(page)[1] == ("second", "40:100")
        page.get_by_role("radio", name="Off").click()
        page.get_by_label("Fades over in", exact=True).fill("4")
        page.get_by_label("Fades over in", exact=True).press("Enter")
        page.get_by_role("button", name="Add a colour after it").click()
        maker.settled()
        assert places(page)[2] == ("Colour #1E2530", "100:130")
        sent = maker.send(tmp_path)
        frames = decode_luma(sent)
        assert len(frames) == 130
        assert [number_of(f) for f in frames[44:100]] == [n // 2 for n in range(4, 60)]
        assert all(f.std() < 1.5 for f in frames[101:129])
        # Half over the last frame that was filmed before, half over the first of the next.
        assert frames[41][10:200].std() < frames[39][10:200].std()
        sound = sound_of(sent, 4)
        assert abs(sound[:, 10_000:60_000]).max() > 0.15
        assert abs(sound[:, 68_000:150_000]).max() < 0.02
        layout = json.dumps(places(page))
        page.reload()
        expect(page.locator('[data-item="second"]')).to_be_visible()
        assert json.dumps(places(page)) == layout


def test_a_first_frame_arrives_over_the_take_before_and_blends_with_it(page, maker, tmp_path):
    maker.to_frame(40)
    page.get_by_role("button", name="Hold this frame").click()
    expect(page.get_by_test_id("carve")).to_be_visible()
    maker.draw_around([(40, 260), (280, 260), (280, 440), (40, 440)])
    maker.settled()
    maker.step("Fly")
    page.get_by_role("radio", name="Arrival").click()
    maker.settled()
    expect(page.locator("[data-span]")).to_have_attribute("data-span", "25:40")
    plain = decode_luma(maker.send(tmp_path))
    maker.step("Fly")
    page.locator("[data-span]").click()
    page.get_by_label("Blend with what lies below").select_option("multiply")
    maker.settled()
    blended = decode_luma(maker.send(tmp_path))
    assert [number_of(f) for f in blended] == [*range(40), *range(30)]
    changed = [n for n, (a, b) in enumerate(zip(plain, blended, strict=True)) if abs(a.astype(int) - b).max() > 20]
    assert changed == list(range(25, 40))
    inside = slice(280, 420), slice(60, 260)
    assert blended[30][inside].mean() < plain[30][inside].mean() - 15
    # Only the first frame of a take can arrive: of any other it is not offered.
    maker.step("Catch")
    maker.to_frame(45)
    page.get_by_role("button", name="Hold this frame").click()
    expect(page.get_by_test_id("carve")).to_be_visible()
    maker.step("Fly")
    expect(page.get_by_role("radio", name="Trail")).to_be_visible()
    expect(page.get_by_role("radio", name="Arrival")).to_have_count(0)


def test_one_press_stands_still_under_a_cutout_of_that_very_frame(page, maker, tmp_path):
    maker.to_frame(15)
    page.get_by_role("button", name="Stand still").click()
    expect(page.get_by_test_id("carve")).to_be_visible()
    maker.draw_around([(60, 240), (260, 240), (260, 440), (60, 440)])
    maker.settled()
    maker.step("Fly")
    expect(page.get_by_role("radio", name="Standstill")).to_be_checked()
    expect(page.locator("[data-span]")).to_have_attribute("data-span", "16:46")
    # While everything stands the cutout grows; before and after the piece is as it was filmed.
    maker.to_frame(16)
    page.get_by_role("button", name="Set scale key").click()
    maker.to_frame(30)
    maker.field("Scale", 130)
    page.keyboard.press("End")
    frames = decode_luma(maker.send(tmp_path))
    assert [number_of(f) for f in frames] == [*range(16), *[15] * 30, *range(16, 40), *range(30)]
    apart = [abs(f.astype(int) - frames[15])[240:].mean() for f in frames]  # below the bars that tell the number
    assert max(apart[14:17]) < 0.25  # it begins as the frame before it
    assert min(apart[30:46]) > 0.4
    assert max(apart[46:70]) < 0.25

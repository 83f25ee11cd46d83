"""The whole way: import, catch, carve, fly, dress, send; then the export is looked at frame by frame."""

import base64
import re

import av
import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.draw.sound.loudness import loudness
from nervykite.core.see.footage import loose
from nervykite.core.see.matte.outline import outlines

from ..media import decode, decode_luma, make_video, number_of
from ..truth import truth_alpha
from .driver import CLIP, Maker

pytestmark = pytest.mark.journey
HELD, AHEAD = 52, 66


def outline_of_runner(frame: int) -> list[tuple[float, float]]:
    """Where a person would click around the runner."""
    body = outlines(truth_alpha("dune-run", frame), tolerance=3.0)[0]
    points: list[tuple[float, float]] = []
    for node in body.nodes:
        # A click near the first point would close the shape.
        if all(np.hypot(node.x - x, node.y - y) > (24 if n else 32) for n, (x, y) in enumerate(points)):
            points.append((node.x, node.y))
    return points


def filled(points, size=(720, 1280)) -> np.ndarray:
    mask = np.zeros(size[::-1], np.uint8)
    cv2.fillPoly(mask, [np.round(np.array(points)).astype(np.int32)], 1)
    return mask.astype(bool)


def test_from_file_to_sent_video(page, server, tmp_path):
    maker = Maker(page, server.url)
    maker.new_project("First flight")
    maker.import_file(CLIP)
    assert (maker.view()["project"]["width"], maker.view()["length"]) == (720, 132)

    # Catch: flag one moment by key, hold another by button.
    maker.step("Catch")
    maker.to_frame(AHEAD)
    page.keyboard.press("f")
    page.get_by_role("radio", name="Moments").click()
    expect(page.locator(f'[data-moment="{AHEAD}"]')).to_be_visible()
    maker.to_frame(HELD)
    expect(page.get_by_test_id("source-frame")).to_have_attribute("data-frame", str(HELD))
    page.get_by_role("button", name="Hold this frame").click()
    expect(page.get_by_text(f"Cutout 1 · dune-run · frame {HELD}")).to_be_visible()

    # Carve: by mouse.
    points = outline_of_runner(HELD)
    maker.draw_around(points)
    expect(page.locator('[data-piece="Pen 1"]')).to_be_visible()
    maker.settled()
    view = maker.view()
    layer = view["project"]["layers"][0]
    nodes = view["holds"][layer["source"]["hold"]]["matte"]["pieces"][0]["nodes"]
    assert len(nodes) == len(points)
    assert np.abs([(n["x"] - x, n["y"] - y) for n, (x, y) in zip(nodes, points, strict=True)]).max() < 3

    # Fly: the copy moves away from its place late, tied to the end.
    maker.step("Fly")
    maker.to_frame(HELD)
    page.get_by_role("button", name="Set position key").click()
    maker.settled()
    maker.to_frame(100)
    maker.field("Across", -150)
    maker.settled()
    keys = maker.view()["project"]["layers"][0]["keys"]
    assert [(k["tie"], k["offset"], k["value"]) for k in keys] == [("landing", 0, [0, 0]), ("end", -32, [-150, 0])]
    # It waits at rest until then: the first key stays where it is.
    page.get_by_role("button", name=f"across key at frame {HELD}").click()
    page.get_by_role("radio", name="stay, then jump").click()
    maker.settled()

    # A second cutout waits ahead and comes down with an eased move onto its own frame.
    maker.to_frame(AHEAD)
    page.keyboard.press("h")
    expect(page.get_by_text(f"Cutout 2 · dune-run · frame {AHEAD}")).to_be_visible()
    second = outline_of_runner(AHEAD)
    maker.draw_around(second)
    maker.settled()
    maker.step("Fly")
    page.get_by_role("radio", name="Ahead").click()
    maker.settled()
    maker.to_frame(AHEAD - 1)
    maker.to_frame(30)
    page.get_by_role("button", name="Set position key").click()
    maker.settled()
    # Drag it on the picture, up and away; it was at rest, so the press is on its own place.
    middle = np.mean(second, 0) + (0, 70)  # beside its anchor
    maker.drag(maker.on_picture(*middle), maker.on_picture(middle[0] - 60, middle[1] - 420))
    maker.settled()
    page.get_by_role("button", name="across key at frame 30").first.click()
    page.get_by_role("radio", name="soft landing").click()
    maker.settled()
    maker.to_frame(AHEAD - 1)
    maker.field("Across", 0)
    maker.field("Down", 0)

    keys = maker.view()["project"]["layers"][1]["keys"]
    assert [(k["tie"], k["offset"]) for k in keys] == [("start", 30), ("landing", -1)]
    assert keys[0]["value"] == pytest.approx([-60, -420], abs=3)
    assert keys[1]["value"] == [0, 0]

    # Dress: an outline on the first, a blur on the footage at the end of the work, switched off again.
    page.locator('[data-layer="Cutout 1"] [data-span]').click()
    maker.step("Dress")
    page.get_by_role("button", name="Outline", exact=True).click()
    maker.settled()
    maker.field("Width", 8)
    page.get_by_label("Colour", exact=True).fill("#FF00FF")
    page.keyboard.press("Enter")
    maker.settled()

    sent = maker.send(tmp_path)
    frames, source = decode_luma(sent), decode_luma(CLIP)
    assert len(frames) == 132
    first, ahead = filled(points), filled(second)
    around = cv2.dilate(first.astype(np.uint8), np.ones((25, 25))).astype(bool)

    def far(frame: int, of: np.ndarray, other: int | None = None) -> float:
        return np.abs(frames[frame].astype(int) - source[frame if other is None else other])[of].mean()

    inside = cv2.erode(first.astype(np.uint8), np.ones((9, 9))).astype(bool)
    inside_ahead = cv2.erode(ahead.astype(np.uint8), np.ones((9, 9))).astype(bool)
    # Rules 1 and 3: nothing before the moment; on it and after it exactly the held frame stays.
    clear = ~cv2.dilate(ahead.astype(np.uint8), np.ones((121, 121))).astype(bool)  # of the other one, coming down
    assert (inside & clear).sum() > 10_000
    assert far(HELD - 1, around & clear) < 2
    assert far(HELD, inside & clear) < 2
    for later in (HELD + 1, HELD + 10, 79, 98):
        assert far(later, inside & clear, other=HELD) < 3
    assert far(HELD + 10, inside & clear) > 12
    # The outline is there, and nothing beyond it.
    colours = decode(sent)
    magenta = (np.abs(colours[HELD].astype(int) - [255, 0, 255]).max(-1) < 90) & ~inside
    assert magenta.sum() > 2000
    assert magenta[~around].sum() < 40
    # The one ahead: away at first, at rest one frame before its own, gone on it.
    assert far(AHEAD, inside_ahead & ~around) < 2
    assert far(AHEAD - 1, inside_ahead & ~around, other=AHEAD) < 3
    dx, dy = (round(v) for v in keys[0]["value"])
    there = np.roll(inside_ahead, (dy, dx), (0, 1))
    there[dy:] = there[:, dx:] = False  # what has left the picture
    home = np.roll(there, (-dy, -dx), (0, 1))
    assert there.sum() > 10_000
    assert np.abs(frames[30][there].astype(int) - source[AHEAD][home]).mean() < 4
    # After the last key the copy has gone to the side.
    assert far(110, inside & ~ahead, other=HELD) > 8

    # And there is sound, the shot's own, as loud as phones play it.
    with av.open(str(sent)) as file:
        heard = np.concatenate([f.to_ndarray() for f in file.decode(audio=0)], 1)
    assert loudness([heard]) == pytest.approx(-14, abs=0.4)


def test_ground_blur_on_page_and_in_export(page, server, tmp_path):
    maker = Maker(page, server.url)
    maker.open("Gull Point relay")
    page.get_by_role("button", name="Footage Dune run").click()
    maker.step("Dress")
    maker.put_on("Lens", "Soft blur")
    maker.field("Radius", 30)
    maker.to_frame(20)
    shown, source = maker.sent(tmp_path, 10)[10], loose.around(CLIP, 10, None)[0]
    sharp = [np.abs(np.diff(f[900:].mean(-1), axis=1)).mean() for f in (shown, source)]
    assert sharp[0] < 0.4 * sharp[1]


@pytest.mark.everything
def test_playing_moves_on_and_keeps_to_the_loop(page, server):
    maker = Maker.at(page, server.url, "Gull Point relay")
    maker.to_frame(40)
    page.keyboard.press("Space")
    seen = set()
    for _ in range(60):
        page.wait_for_timeout(50)
        seen.add(int(maker.canvas.get_attribute("data-frame") or -1))
    page.keyboard.press("Space")
    assert len(seen) > 3
    assert min(seen) >= 30
    assert max(seen) < 110


def test_bad_files_and_dropped_files(page, server, tmp_path):
    maker = Maker(page, server.url)
    maker.new_project("Odd files")
    bad = tmp_path / "letter.mp4"
    bad.write_text("Dear Juno, " * 400)
    maker.drop_file(bad)
    expect(page.get_by_role("alert")).to_contain_text("letter.mp4 cannot be read as video")
    wide = make_video(tmp_path / "wide.mp4", size=(320, 180), frames=20, sound=False)
    maker.drop_file(wide)
    expect(page.get_by_role("button", name="Footage wide")).to_be_visible(timeout=60_000)
    expect(page.get_by_text("No sound").first).to_be_visible()
    # A wide piece turns the grid: sky and ground lie below both picture and bench.
    picture, timeline = page.get_by_test_id("picture").bounding_box(), page.get_by_test_id("timeline").bounding_box()
    assert timeline["y"] > picture["y"] + picture["height"]
    assert timeline["width"] > 1200
    # And the picture shows the whole of it, in its own shape.
    maker.to_frame(9)
    shown = page.evaluate("() => { const c = document.querySelector('[data-testid=picture] canvas');"
                          " return [c.width, c.height, c.toDataURL('image/png').split(',')[1]] }")  # fmt: skip
    assert shown[:2] == [320, 180]
    pixels = cv2.imdecode(np.frombuffer(base64.b64decode(shown[2]), np.uint8), 1)
    assert number_of(pixels) == 9


def test_another_tab_and_a_crash(page, process, context):
    Maker.at(page, process.url, "Gull Point relay")
    other = context.new_page()
    second = Maker(other, page.url)
    expect(other.get_by_test_id("picture")).to_be_visible()
    page.get_by_role("button", name="Hide Leap 1").or_(page.locator('[data-layer="Leap 1"]')).first.hover()
    page.get_by_role("button", name="Hide Leap 1").click()
    other.locator('[data-layer="Leap 1"]').hover()
    expect(other.get_by_role("button", name="Show Leap 1")).to_be_visible()
    second.settled()
    # The program dies; the page says so, and goes on with everything when it is back.
    process.kill()
    expect(page.get_by_text("No server")).to_be_visible(timeout=60_000)
    process.start()
    expect(page.get_by_text("Saved", exact=True)).to_be_visible(timeout=60_000)
    page.get_by_role("button", name=re.compile("^Undo$")).click()
    page.locator('[data-layer="Leap 1"]').hover()
    expect(page.get_by_role("button", name="Hide Leap 1")).to_be_visible()


def test_dragging_a_cutout_shows_each_new_place(page, server):
    """The measurement `bench edit` works on the real page; how long it takes is for the measurement to say."""
    from tools.bench.edit import MOVES, waits_on

    page.goto(server.url)
    waits = waits_on(page)
    assert 1 < len(waits) <= MOVES
    print(f"movement to drawn frame: median {np.median(waits):.0f} ms")

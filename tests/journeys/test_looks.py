"""Looks by hand, to the frame that is sent: a world held back, ink, a colour between two, a look from a file."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose

from ..truth import truth_alpha
from .driver import CLIP, Maker

pytestmark = pytest.mark.journey
HELD = 70
"""The frame at which the third leap was held."""
AT = 72


@pytest.fixture
def maker(page, server):
    """The demo piece at Dress, with its third leap alone, two frames after it was held."""
    page.set_default_timeout(90_000)
    maker = Maker.at(page, server.url, "Gull Point relay", ("Leap 1", "Leap 2", "Touch down"))
    page.locator('[data-layer="Leap 3"] [data-span]').click()
    maker.to_frame(AT)
    maker.step("Dress")
    return maker


def sent_at(maker: Maker, folder, frame: int = AT) -> np.ndarray:
    """A frame of what is sent, R'G'B', float (h, w, 3), 0…255."""
    return maker.sent(folder, frame)[frame].astype(float)


def luma(rgb: np.ndarray) -> np.ndarray:
    return rgb @ np.array([0.2126, 0.7152, 0.0722])


def test_the_subject_brighter_the_world_darker_and_blurred_along_a_line(page, maker, tmp_path):
    maker.put_on("Tone", "Tone")
    maker.field("Exposure", 0.4)
    page.get_by_role("button", name="Add a wash below it").click()
    maker.settled()
    maker.put_on("Tone", "Tone")
    maker.field("Exposure", -1.2)
    maker.put_on("Lens", "Directional blur")
    maker.field("Distance", 60)
    maker.field("Angle", 0)
    shown = sent_at(maker, tmp_path)
    clip = loose.around(CLIP, AT, None)[0].astype(float)
    still = loose.around(CLIP, HELD, None)[0].astype(float)
    inside = cv2.erode(truth_alpha("dune-run", HELD), np.ones((9, 9))) > 0.98
    world = np.ones_like(inside)
    world[:, 100:620] = False
    assert np.median(luma(shown)[inside] - luma(still)[inside]) > 8
    assert np.median(luma(shown)[world] - luma(clip)[world]) < -25
    # Across the line all that is fine is gone; along it, edges stay as sharp as they were, darker by as much.
    fine = [np.abs(np.diff(luma(x), axis=axis))[:-1, :-1] for x in (shown, clip) for axis in (1, 0)]
    across, down, across_before, down_before = (f[900:1270, 4:90].mean() for f in fine)
    assert across / across_before < 0.35
    assert down / down_before > 1.5 * across / across_before


def test_an_ink_panel_over_a_printed_world(page, maker, tmp_path):
    """Flat tones and dark edges on the subject, dots behind."""
    maker.put_on("Drawing", "Ink")
    maker.field("Line around it", 6)
    page.get_by_role("button", name="Add a wash below it").click()
    maker.settled()
    maker.put_on("Drawing", "Halftone")
    maker.field("Size", 16)
    maker.field("Angle", 0)
    shown = luma(sent_at(maker, tmp_path))
    still = luma(loose.around(CLIP, HELD, None)[0].astype(float))
    alpha = truth_alpha("dune-run", HELD)
    # Most pixels of the figure lie in flat areas, far more than of the footage.
    inside = cv2.erode(alpha, np.ones((25, 25))) > 0.98

    def flatness(picture: np.ndarray) -> float:
        slope = cv2.morphologyEx(picture.astype(np.float32), cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
        return float((slope[inside] < 6).mean())

    assert flatness(shown) > flatness(still) + 0.08
    # Its edge is a dark line.
    rim = (alpha > 0.9) & (cv2.erode(alpha, np.ones((5, 5))) < 0.9)
    assert np.median(shown[rim]) < 70 < np.median(still[rim])
    # Behind it the same dot comes back every sixteen pixels, and its opposite lies halfway.
    sky = shown[20:180, 40:200] - shown[20:180, 40:200].mean()
    one, half = ((sky[:, by:] * sky[:, :-by]).mean() / sky.var() for by in (16, 8))
    assert one > 0.6
    assert half < 0


def test_a_colour_that_goes_over_into_another_between_two_keys(page, maker, tmp_path):
    maker.put_on("Fill", "Flat colour")
    for frame, colour in ((AT, "#FF0000"), (AT + 10, "#0000FF")):
        maker.to_frame(frame)
        page.get_by_role("button", name="Set colour key").last.click()
        maker.settled()
        field = page.locator("[data-finish=flat-colour]").get_by_label("Colour", exact=True)
        field.fill(colour)
        field.press("Enter")
        maker.settled()
    maker.to_frame(AT + 5)
    expect(field).to_have_value("#8C53A2")
    inside = cv2.erode(truth_alpha("dune-run", HELD), np.ones((15, 15))) > 0.98
    seen = np.median(sent_at(maker, tmp_path, AT + 5)[inside], axis=0)
    assert seen == pytest.approx([0x8C, 0x53, 0xA2], abs=6)


def test_a_table_of_colours_out_of_a_file(page, maker, tmp_path):
    """Red and blue change places: in the picture, and in what is sent."""
    corners = [f"{b} {g} {r}" for b in (0, 1) for g in (0, 1) for r in (0, 1)]
    (tmp_path / "Turned.cube").write_text("\n".join(["LUT_3D_SIZE 2", *corners]))
    maker.drop_file(tmp_path / "Turned.cube")
    expect(page.get_by_text("Import Turned.cube: done.")).to_be_visible()
    maker.put_on("Tone", "Colour table")
    expect(page.get_by_label("Table", exact=True).locator("option:checked")).to_have_text("Turned")
    shown = sent_at(maker, tmp_path)
    still = loose.around(CLIP, HELD, None)[0].astype(float)
    inside = cv2.erode(truth_alpha("dune-run", HELD), np.ones((15, 15))) > 0.98
    assert np.abs(shown[inside] - still[inside][:, ::-1]).mean() < 5
    assert np.abs(shown[inside] - still[inside]).mean() > 30
    # While it is worn it stays where it is.
    page.get_by_role("button", name="Shelf", exact=True).click()
    page.get_by_role("button", name="Take Turned off the shelf").click()
    expect(page.get_by_text("Turned is in use. Remove what shows or wears it first.")).to_be_visible()


def test_a_card_without_its_name(page, maker, tmp_path):
    """The subject before a shape in a colour of its clothes, over a world out of focus."""
    page.get_by_role("button", name="Keep #", exact=False).first.click()
    maker.settled()
    (colour,) = maker.view()["project"]["palette"]
    maker.put_on("Edge", "Backing shape")
    backing = page.locator("[data-finish=backing-shape]")
    backing.get_by_role("button", name="Colour, picker").click()
    page.get_by_role("button", name=f"Take {colour}").click()
    maker.settled()
    page.get_by_role("button", name="Add a wash below it").click()
    maker.settled()
    maker.put_on("Lens", "Soft blur")
    plain, shown = tmp_path / "plain", tmp_path / "shown"
    for folder in (plain, shown):
        folder.mkdir()
    dressed = sent_at(maker, shown)
    maker.step("Dress")
    for layer, finish in (("Wash", "Soft blur"), ("Leap 3", "Backing shape")):
        page.get_by_label("What is shown here").select_option(layer)
        page.get_by_role("button", name=f"Switch off {finish}").click()
        maker.settled()
    bare = sent_at(maker, plain)
    wanted = np.array([int(colour[n : n + 2], 16) for n in (1, 3, 5)])
    shape = (np.abs(dressed - wanted).max(-1) < 14) & (np.abs(bare - wanted).max(-1) > 30)
    # The shape shows in one piece around the figure, and what is left of the world has no fine edges any more.
    areas = cv2.connectedComponentsWithStats(shape.astype(np.uint8))[2][1:, cv2.CC_STAT_AREA]
    assert areas.max() > 3000
    corner = (slice(900, 1270), slice(4, 90))
    fine = [np.abs(np.diff(luma(x)[corner], axis=1)).mean() for x in (dressed, bare)]
    assert fine[0] < 0.6 * fine[1]

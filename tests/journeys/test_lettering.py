"""Words by hand: typed, set in a face, bent by a handle, put between others, and sent."""

import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose

from .driver import CLIP, Maker

pytestmark = pytest.mark.journey
AT = 20


@pytest.fixture
def maker(page, server):
    """The demo piece, with lettering put into its sky at its twentieth frame."""
    page.set_default_timeout(90_000)
    maker = Maker.at(page, server.url, "Gull Point relay")
    maker.step("Dress")
    maker.settled()
    maker.to_frame(AT)
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Lettering", exact=True).click()
    expect(page.get_by_label("Words", exact=True)).to_be_visible()
    maker.settled()
    return maker


def source(maker: Maker) -> dict:
    return next(x for x in maker.view()["project"]["layers"] if x["source"]["kind"] == "lettering")["source"]


def test_words_are_typed_set_bent_and_sent(page, maker, tmp_path):
    page.get_by_label("Words", exact=True).fill("MARA DUNE")
    # A press on a face while the words are still being typed loses neither.
    page.get_by_role("button", name="Titan One", exact=True).click()
    maker.settled()
    assert (source(maker)["words"], source(maker)["face"]) == ("MARA DUNE", "titan-one")
    expect(page.locator('[data-layer="MARA DUNE"]')).to_be_visible()

    handle = page.locator("[data-bend]")
    box = handle.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    maker.drag((x, y), (x, y - 60))
    maker.settled()
    assert source(maker)["shape"] == "arc"
    assert source(maker)["bend"] > 30
    maker.field("Size", 110)
    maker.field("Line", 0)
    field = page.get_by_label("Colour", exact=True)
    field.fill("#FF00FF")
    field.press("Enter")
    maker.settled()
    # Finishes go on it as on anything that flies.
    maker.put_on("Edge", "Drop shadow")

    id_ = next(x["id"] for x in maker.view()["project"]["layers"] if x["source"]["kind"] == "lettering")
    assert maker.view()["layers"][id_]["start"] == AT
    before, shown = (f.astype(int) for f in maker.sent(tmp_path, AT - 1, AT + 4).values())
    letters = (np.abs(shown - (255, 0, 255)).max(-1) < 40).astype(np.uint8)
    assert letters.mean() > 0.02
    assert (np.abs(before - (255, 0, 255)).max(-1) < 40).mean() < 1e-4
    # An arc: higher in the middle than at its ends.
    ys, xs = np.nonzero(letters)
    middle, left, right = (
        np.median(ys[(xs > a) & (xs < b)])
        for a, b in ((330, 390), (xs.min(), xs.min() + 60), (xs.max() - 60, xs.max()))
    )
    assert middle < min(left, right) - 15
    assert abs(left - right) < 25
    # Around it the footage is as it was.
    clip = loose.around(CLIP, AT + 4, None)[0].astype(int)
    assert np.abs(shown - clip)[1000:].mean() < 3


def test_a_letter_that_no_face_has_is_said(page, maker):
    words = page.get_by_label("Words", exact=True)
    words.fill("Mara 漢")
    words.blur()
    maker.settled()
    expect(page.get_by_text("No face here has “漢”.")).to_be_visible()


def test_resting_on_a_face_shows_it_and_leaving_takes_it_back(page, maker):
    drawn = "draft => document.querySelector('[data-testid=picture] canvas').dataset.draft === draft"
    box = page.get_by_role("button", name="Bebas Neue", exact=True).bounding_box()
    page.mouse.move(box["x"] + 20, box["y"] + 20)
    page.mouse.move(box["x"] + 24, box["y"] + 24)
    page.wait_for_function(drawn, arg="yes")
    page.mouse.move(640, 480)
    page.wait_for_function(drawn, arg="no")
    assert source(maker)["face"] == "anton"


def test_a_varied_face_has_its_axes_as_tracks(page, maker):
    page.get_by_role("button", name="Anybody", exact=True).click()
    maker.settled()
    maker.field("Weight", 300)
    assert source(maker)["axes"] == {"wght": 300}
    page.keyboard.press("Control+z")
    maker.settled()
    assert source(maker)["axes"] == {}


def test_letters_grow_by_keys(page, maker):
    page.get_by_role("button", name="Set size key").click()
    maker.settled()
    maker.to_frame(AT + 10)
    maker.field("Size", 300)
    layer = next(x for x in maker.view()["project"]["layers"] if x["source"]["kind"] == "lettering")
    assert [(k["channel"], k["value"]) for k in layer["keys"]] == [("source.high", [150]), ("source.high", [300])]
    assert layer["source"]["high"] == 150
    maker.to_frame(AT + 5)
    assert 150 < float(page.get_by_label("Size", exact=True).input_value()) < 300
    # The handle bends it as it is then.
    box = page.locator("[data-bend]").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    maker.drag((x, y), (x, y - 40))
    maker.settled()
    assert source(maker)["shape"] == "arc"


def test_letters_come_in_and_go_out_in_one_press_each(page, maker, tmp_path):
    page.get_by_label("Words", exact=True).fill("MARA")
    page.get_by_label("Words", exact=True).blur()
    maker.settled()
    page.get_by_role("button", name="Letters come and go", exact=True).click()
    page.get_by_role("radio", name="Pop", exact=True).click()
    maker.settled()
    for name in ("Come in", "Go out"):
        page.get_by_role("button", name=name, exact=True).click()
        maker.settled()
    view = maker.view()
    layer = next(x for x in view["project"]["layers"] if x["source"]["kind"] == "lettering")
    assert [(k["channel"], k["tie"], k["offset"], k["value"]) for k in layer["keys"]] == [
        ("source.entered", "start", 0, [0]), ("source.entered", "start", 18, [1]),
        ("source.gone", "end", -19, [0]), ("source.gone", "end", -1, [1]),
    ]  # fmt: skip
    start = view["layers"][layer["id"]]["start"]
    coming = [start + n for n in (0, 6, 12, 20)]
    sent = maker.sent(tmp_path, *coming)

    def white(frame: int) -> float:
        shown = sent[frame].astype(int)
        clip = loose.around(CLIP, frame, None)[0].astype(int)
        return float(((shown.min(-1) > 235) & (np.abs(shown - clip).max(-1) > 40)).mean())

    much = [white(n) for n in coming]
    assert much[0] < 1e-3
    assert much == sorted(much)
    assert much[3] > 0.01

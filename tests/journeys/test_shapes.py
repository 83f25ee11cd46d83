"""Shapes, paths, things in the air, cards by hand, and what is sent of them."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose

from ..truth import truth_alpha
from .driver import CLIP, Maker

pytestmark = pytest.mark.journey
HELD, AT = 58, 64
"""When the second leap was held, and a frame at which it is there."""


@pytest.fixture
def maker(page, server):
    """The demo piece at Dress, with its second leap alone and chosen."""
    page.set_default_timeout(90_000)
    maker = Maker.at(page, server.url, "Gull Point relay", ("Leap 1", "Leap 3", "Touch down"))
    maker.step("Dress")
    maker.to_frame(AT)
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    maker.settled()
    return maker


def add(maker: Maker, what: str) -> None:
    maker.page.get_by_role("button", name="Add to the sky").click()
    maker.page.get_by_role("button", name=what, exact=True).click()
    maker.settled()


def latest(maker: Maker, kind: str) -> dict:
    return next(x for x in reversed(maker.view()["project"]["layers"]) if x["source"]["kind"] == kind)


def near(rgb: np.ndarray, colour: tuple[int, int, int], by: int = 40) -> np.ndarray:
    return np.abs(rgb.astype(int) - colour).max(-1) < by


def test_a_shape_is_exchanged_coloured_drawn_on_and_sent(page, maker, tmp_path):
    add(maker, "Shape")
    # It comes and goes along with what was chosen.
    view = maker.view()
    leap = next(x["id"] for x in view["project"]["layers"] if x["name"] == "Leap 2")
    box = latest(maker, "box")
    assert [view["layers"][x][k] for x in (leap, box["id"]) for k in ("start", "end")] == [
        view["layers"][leap][k] for k in ("start", "end", "start", "end")
    ]
    field = page.get_by_label("Colour", exact=True)
    field.fill("#00FF00")
    field.press("Enter")
    maker.settled()
    # What was changed stays so in another figure.
    page.get_by_role("button", name="Star", exact=True).click()
    maker.settled()
    star = latest(maker, "star")["source"]
    assert star["colour"] == "#00FF00"
    for label, value in (("Width", 300), ("Height", 300)):
        maker.field(label, value)
    for frame, drawn in ((AT, 0), (AT + 10, 100)):
        maker.to_frame(frame)
        page.get_by_role("button", name="Set drawn key").click()
        maker.settled()
        maker.field("Drawn", drawn)
    sent = maker.sent(tmp_path, AT, AT + 4, AT + 12)
    green = [int(near(frame, (0, 255, 0)).sum()) for frame in sent.values()]
    assert green[0] < 10
    assert green[1] < 0.5 * green[2]
    assert green[2] > 15_000


def test_a_path_is_drawn_run_around_her_and_its_points_are_moved(page, maker, tmp_path):
    add(maker, "Shape")
    page.get_by_role("button", name="Pen path", exact=True).click()
    maker.settled()
    page.get_by_role("button", name="Draw", exact=True).click()
    corners = [(120, 260), (300, 200), (480, 260), (600, 200)]
    places = [maker.on_picture(*c) for c in corners]
    page.mouse.move(*places[0])
    page.mouse.down()
    for place in places[1:]:
        page.mouse.move(*place, steps=8)
    page.mouse.up()
    maker.settled()
    drawn = latest(maker, "pen-path")["source"]["points"]
    assert len(drawn) > 6
    assert drawn[0] == pytest.approx([120 - 360, 260 - 640], abs=6)
    assert drawn[-1] == pytest.approx([600 - 360, 200 - 640], abs=30)
    # One by one as well; Enter ends it.
    page.get_by_role("button", name="Draw", exact=True).click()
    for place in places[:3]:
        page.mouse.click(*place)
    page.keyboard.press("Enter")
    maker.settled()
    assert len(latest(maker, "pen-path")["source"]["points"]) == 3
    maker.drag(places[1], maker.on_picture(300, 120))
    maker.settled()
    assert latest(maker, "pen-path")["source"]["points"][1] == pytest.approx([-60, -520], abs=6)

    page.get_by_label("Run around a layer").select_option(label="Leap 2")
    expect(page.get_by_role("checkbox", name="Closed", exact=True)).to_be_checked()
    maker.settled()
    source = latest(maker, "pen-path")["source"]
    assert source["closed"]
    assert len(source["points"]) > 30
    field = page.get_by_label("Colour", exact=True)
    field.fill("#00FF00")
    field.press("Enter")
    maker.settled()
    shown = maker.sent(tmp_path, AT)[AT]
    alpha = truth_alpha("dune-run", HELD) > 0.5
    out = cv2.distanceTransform((~alpha).astype(np.uint8), cv2.DIST_L2, 5)
    green = near(shown, (0, 255, 0))
    assert green.sum() > 15_000
    # All along it runs about as far outside of her as it says.
    assert np.quantile(out[green], 0.02) > 6
    assert np.quantile(out[green], 0.98) < 60


def test_words_are_typed_in_the_picture_and_run_along_a_path(page, maker, tmp_path):
    add(maker, "Lettering")
    page.mouse.dblclick(*maker.on_picture(360, 640))
    typed = page.get_by_label("in the picture", exact=False)
    expect(typed).to_be_focused()
    page.keyboard.type("OVER THE DUNE")
    page.keyboard.press("Control+Enter")
    maker.settled()
    assert latest(maker, "lettering")["source"]["words"] == "OVER THE DUNE"
    # Left with Escape, nothing has changed.
    page.mouse.dblclick(*maker.on_picture(360, 640))
    page.keyboard.type("No")
    page.keyboard.press("Escape")
    maker.settled()
    assert latest(maker, "lettering")["source"]["words"] == "OVER THE DUNE"
    maker.field("Size", 90)
    maker.field("Line", 0)
    page.get_by_role("radiogroup", name="Runs").get_by_role("radio", name="Along").click()
    maker.settled()
    page.get_by_label("Run around a layer").select_option(label="Leap 2")
    expect(page.get_by_role("checkbox", name="Closed", exact=True)).to_be_checked()
    maker.settled()
    page.get_by_role("button", name="Words by themselves", exact=True).click()
    page.get_by_label("Set a word or a letter by itself").select_option(label="DUNE")
    maker.settled()
    field = page.locator('[data-apart="DUNE"]').get_by_label("Colour of DUNE", exact=True)
    field.fill("#FF00FF")
    field.press("Enter")
    maker.settled()
    (apart,) = latest(maker, "lettering")["source"]["aparts"]
    assert (apart["number"], apart["size"], apart["colour"]) == (2, 1.3, "#FF00FF")
    shown = maker.sent(tmp_path, AT)[AT]
    alpha = truth_alpha("dune-run", HELD) > 0.5
    letters = near(shown, (255, 0, 255), 60)
    assert letters.sum() > 1500
    assert (letters & alpha).sum() < 0.1 * letters.sum()


def test_confetti_before_her_and_a_card_behind(page, maker, tmp_path):
    add(maker, "In the air")
    maker.field("Amount", 300)
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Card", exact=True).click()
    page.get_by_label("Name on the card").fill("Juno Abara")
    page.get_by_label("Line on the card").fill("Harbour Hares")
    page.get_by_role("button", name="Strips", exact=True).click()
    expect(page.locator('[data-layer="Card Juno Abara"]')).to_be_visible()
    maker.settled()
    view = maker.view()
    outer = [x["name"] for x in view["project"]["layers"] if x["group"] is None]
    assert outer.index("Card Juno Abara") == outer.index("Leap 2") - 1
    # Its words are typed where the group is dressed, and are seen at once.
    words = page.get_by_label("Words of Juno Abara")
    words.fill("Teo Marrick")
    words.press("Control+Enter")
    maker.settled()
    expect(page.locator('[data-layer="Confetti"]')).to_be_visible()
    middle = view["layers"][next(x["id"] for x in view["project"]["layers"] if x["name"] == "Leap 2")]
    frame = (middle["start"] + middle["end"]) // 2
    shown, clip = maker.sent(tmp_path, frame)[frame], loose.around(CLIP, frame, None)[0]
    main = near(shown, (0xD6, 0x3F, 0x22))
    strip = cv2.morphologyEx(main.astype(np.uint8), cv2.MORPH_OPEN, np.ones((15, 15)))
    assert strip.sum() > 3000
    # Behind her it is hidden by her.
    alpha = truth_alpha("dune-run", HELD) > 0.98
    assert (strip.astype(bool) & alpha).sum() < 0.2 * strip.sum()
    # Slips of paper are all over the picture, before her too.
    changed = np.abs(shown.astype(int) - clip).max(-1) > 40
    assert 0.005 < changed[900:].mean() < 0.3

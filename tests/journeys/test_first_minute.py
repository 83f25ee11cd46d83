"""From a dropped file to a piece that is sent: a recipe is chosen by how it looks with that very footage, and made."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.footage import loose
from nervykite.demo.project import FOOTAGE, truth_alpha

from .driver import CLIP, Maker

pytestmark = pytest.mark.journey


@pytest.fixture
def maker(page, server):
    """A new project, at what can be made; counts the clicks from then on."""
    page.set_default_timeout(40_000)
    maker = Maker(page, server.url)
    maker.new_project("First minute")
    page.evaluate("() => { window.clicks = 0; addEventListener('click', () => window.clicks++, true) }")
    return maker


def clicks(page) -> int:
    return page.evaluate("() => window.clicks")


def made(page, recipe: str) -> None:
    """Chooses a recipe once its loop is there, and has it made."""
    tile = page.get_by_role("button", name=recipe, exact=True)
    expect(tile.locator("[data-loop=there]")).to_have_count(1, timeout=120_000)
    tile.click()
    page.get_by_role("button", name="Make it", exact=True).click()
    expect(page.get_by_test_id("made")).to_contain_text(f"{recipe} is in the piece", timeout=120_000)


def test_a_trail_from_a_dropped_file_in_eight_clicks(page, maker, tmp_path):
    maker.drop_file(CLIP)
    page.get_by_role("button", name="Make", exact=True).click()
    made(page, "Trail")
    sent = maker.send(tmp_path)
    assert clicks(page) <= 8
    view = maker.view()
    (one,) = view["project"]["made"]
    frames = sorted(c["frame"] for c in one["caught"])
    assert len(frames) == 3
    # After the last of them all three are seen where they were, beside the one who runs on.
    last = frames[-1]
    shown, clip = (loose.around(path, last + 8, None)[0].astype(int) for path in (sent, CLIP))
    for frame in frames:
        body = truth_alpha("dune-run", frame) > 0.9
        body &= truth_alpha("dune-run", last + 8) < 0.05
        for other in frames:
            if other > frame:
                body &= truth_alpha("dune-run", other) < 0.05
        was = loose.around(CLIP, frame, None)[0].astype(int)
        assert np.abs(shown - was)[body].mean() < 8
        assert np.abs(shown - clip)[body].mean() > 12


def test_another_recipe_takes_its_place_in_one_step_back(page, maker):
    maker.drop_file(FOOTAGE / "kite-catch.mp4")
    page.get_by_role("button", name="Make", exact=True).click()
    drop = page.get_by_role("button", name="Drop on the cut", exact=True)
    expect(drop.locator("[data-says]")).to_have_attribute("data-says", re.compile("needs 2 takes"))
    made(page, "Waiting figures")
    before = maker.view()["project"]
    page.get_by_role("button", name="Name card, strips", exact=True).click()
    page.get_by_label("Name", exact=True).fill("Juno Abara")
    page.get_by_role("button", name="Make this instead").click()
    expect(page.get_by_test_id("made")).to_contain_text("Name card, strips is in the piece", timeout=120_000)
    after = maker.view()["project"]
    assert [g["source"]["kind"] for g in after["ground"]].count("standstill") == 1
    assert any("Juno" in x["name"] for x in after["layers"])
    assert len(after["made"]) == 1
    page.get_by_role("button", name="Take it away").click()
    maker.settled()
    gone = maker.view()["project"]
    assert gone["layers"] == []
    assert len(gone["ground"]) == 1
    page.get_by_role("button", name="Undo", exact=True).click()
    maker.settled()
    assert len(maker.view()["project"]["layers"]) == len(after["layers"])
    page.get_by_role("button", name="Undo", exact=True).click()
    maker.settled()
    again = maker.view()["project"]
    assert {x["id"] for x in before["layers"]} <= {x["id"] for x in again["layers"]}

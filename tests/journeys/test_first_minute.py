"""From a dropped file to a piece that is sent: a recipe is chosen by how it looks with that very footage, and made."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose
from nervykite.demo import FOOTAGE
from nervykite.demo.demo_project import add_demo
from nervykite.studio import Studio

from ..shared import made_once
from ..truth import truth_alpha
from .conftest import film
from .driver import Maker

pytestmark = pytest.mark.journey


@pytest.fixture
def maker(page, serving, tmp_path_factory):
    """A new project, where it is asked what is to be made; counts the clicks from then on.

    What is dropped there was looked through before: these clips were in a project that has been deleted.
    """

    def make(folder: Path) -> None:
        studio = Studio(folder, watches=False)
        add_demo(studio, scenes=1)
        studio.projects.delete(film(studio, "Before", FOOTAGE / "kite-catch.mp4", FOOTAGE / "splash-down.mp4"))
        studio.close()

    page.set_default_timeout(90_000)
    maker = Maker(page, serving(made_once(tmp_path_factory, "seen-before", make)).url)
    maker.new_project("First minute", asked=True)
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


def test_figures_that_wait_in_ten_clicks_and_another_recipe_in_their_place(page, maker, tmp_path):
    maker.drop_file(FOOTAGE / "kite-catch.mp4")
    drop = page.get_by_role("button", name="Drop on the cut", exact=True)
    expect(drop.locator("[data-says]")).to_have_attribute("data-says", re.compile("needs 2 takes"))
    made(page, "Waiting figures")
    sent = maker.send(tmp_path)
    assert clicks(page) <= 10
    (one,) = maker.view()["project"]["made"]
    frames = sorted(c["frame"] for c in one["caught"])
    assert len(frames) >= 2
    # Shortly before the first of them is reached, the last one hangs there already; on its own frame it is not seen.
    first, last = frames[0], frames[-1]
    clip = {n: loose.around(FOOTAGE / "kite-catch.mp4", n, None)[0].astype(int) for n in (first - 1, last)}
    shown = {n: loose.around(sent, n, None)[0].astype(int) for n in (first - 1, last)}
    waits = truth_alpha("kite-catch", last) > 0.95
    for n in (first - 1, *frames[:-1]):
        waits &= truth_alpha("kite-catch", n) < 0.02
    assert waits.sum() > 1500
    assert np.abs(shown[first - 1] - clip[last])[waits].mean() < 10
    assert np.abs(shown[first - 1] - clip[first - 1])[waits].mean() > 20
    assert np.abs(shown[last] - clip[last]).mean() < 3

    # Another one takes their place, in one step back, and keeps what was cut out.
    page.get_by_role("button", name="Make", exact=True).click()
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


def test_a_spin_in_from_two_dropped_files(page, maker, tmp_path):
    maker.drop_file(FOOTAGE / "kite-catch.mp4")
    maker.drop_file(FOOTAGE / "splash-down.mp4")
    made(page, "Spin in under")
    sent = maker.send(tmp_path)
    cut = next(i["start"] for i in maker.view()["items"] if i["name"] == "splash-down")
    last = loose.around(FOOTAGE / "kite-catch.mp4", cut - 1, None)[0].astype(int)
    body = truth_alpha("kite-catch", cut - 1) > 0.97
    for n in (0, 6):
        shown = loose.around(sent, cut + n, None)[0].astype(int)
        assert np.abs(shown - last)[body].mean() < 12  # she stays where she was while the next take spins in
    assert np.abs(shown - last)[~body].mean() > 10
    down = loose.around(FOOTAGE / "splash-down.mp4", 60, None)[0].astype(int)
    assert np.abs(loose.around(sent, cut + 60, None)[0].astype(int) - down).mean() < 5


def test_a_recipe_of_ones_own_is_kept_handed_out_and_made_of_another_cutout(page, server, tmp_path):
    page.set_default_timeout(90_000)
    maker = Maker.at(page, server.url, "Gull Point relay")
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    maker.step("Fly")
    page.get_by_label("Name of the recipe").fill("My leap")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("My leap is on the shelf")).to_be_visible()
    page.keyboard.press("s")
    with page.expect_download() as handed:
        page.get_by_role("button", name="Hand out My leap").click()
    assert handed.value.suggested_filename == "My leap.recipe.json"
    handed.value.save_as(tmp_path / "My leap.recipe.json")
    page.keyboard.press("s")
    page.locator('[data-layer="Leap 1"] [data-span]').click()
    page.get_by_role("button", name="Make", exact=True).click()
    page.get_by_role("button", name="My leap", exact=True).click()
    page.get_by_role("radio", name="Chosen cutout").click()
    page.get_by_role("button", name="Make it", exact=True).click()
    expect(page.get_by_test_id("made")).to_contain_text("My leap is in the piece")
    project = maker.view()["project"]
    second, first = (next(x for x in project["layers"] if x["name"] == n) for n in ("Leap 2", "Leap 1"))
    made = next(x for x in project["layers"] if x["id"] in project["made"][0]["layers"])
    assert made["source"]["hold"] == first["source"]["hold"]
    assert [f["settings"] for f in made["finishes"]] == [f["settings"] for f in second["finishes"]]
    keys = [[(k["channel"], k["tie"], k["offset"], k["value"]) for k in x["keys"]] for x in (made, second)]
    assert keys[0] == keys[1]
    # Elsewhere the file comes onto the shelf, and half of it does not.
    page.get_by_role("button", name="Projects").click()
    maker.new_project("Second", asked=True)
    (tmp_path / "half.recipe.json").write_bytes((tmp_path / "My leap.recipe.json").read_bytes()[:400])
    maker.drop_file(tmp_path / "half.recipe.json")
    expect(page.get_by_test_id("refused")).to_contain_text("only half of it is there")
    maker.drop_file(tmp_path / "My leap.recipe.json")
    page.keyboard.press("s")
    expect(page.locator('[data-asset="My leap"]')).to_be_visible()

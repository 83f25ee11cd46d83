"""Send: layers with their alpha, looked at beside the piece; snags shown and mended; a bundle opened again."""

import json
import re
import urllib.request
import zipfile

import cv2
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from nervykite.core.see.footage import loose
from nervykite.core.see.footage.cube_lut import read_table

from .driver import Maker

pytestmark = pytest.mark.journey


@pytest.fixture
def maker(page, server):
    """The leaps, at Send, one of them chosen, while it is there."""
    page.set_default_timeout(90_000)
    maker = Maker.at(page, server.url, "Gull Point relay")
    maker.step("Fly")
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    maker.to_frame(66)
    maker.step("Send")
    return maker


def sent(maker: Maker, folder, name: str):
    """Sends what is chosen, waits for it, and keeps the file."""
    page = maker.page
    buttons = page.get_by_role("button", name="Download")
    before = buttons.count()
    page.get_by_role("button", name="Send", exact=True).last.click()
    expect(buttons).to_have_count(before + 1, timeout=120_000)
    with page.expect_download() as download:
        buttons.first.click()
    path = folder / name
    download.value.save_as(path)
    return path, download.value.suggested_filename


def test_a_layer_is_sent_over_nothing_and_looked_at(page, maker, tmp_path):
    page.get_by_role("radio", name="Layers", exact=True).click()
    page.get_by_label("Format").select_option("png")
    still, name = sent(maker, tmp_path, "leap.png")
    assert name == "Gull Point relay 00-02-06.png"
    picture = cv2.imread(str(still), cv2.IMREAD_UNCHANGED)
    view = maker.view()
    assert picture.shape == (view["project"]["height"], view["project"]["width"], 4)
    alpha = picture[..., 3]
    assert 0.02 < (alpha > 200).mean() < 0.4
    assert alpha[:40].max() == 0
    # It is what the picture of the piece shows there.
    page.get_by_role("radio", name="Piece", exact=True).click()
    whole, _ = sent(maker, tmp_path, "piece.png")
    piece = cv2.imread(str(whole), cv2.IMREAD_UNCHANGED)
    solid = cv2.erode((alpha == 255).astype(np.uint8), np.ones((9, 9))) > 0
    assert np.abs(piece.astype(int)[solid] - picture[..., :3].astype(int)[solid]).mean() < 3
    # Moving, with alpha, played on the page.
    page.get_by_role("radio", name="Layers", exact=True).click()
    page.get_by_label("Format").select_option("webm")
    page.get_by_label("Size").select_option("540x960")
    film, _ = sent(maker, tmp_path, "leap.webm")
    place = next(view["layers"][x["id"]] for x in view["project"]["layers"] if x["name"] == "Leap 2")
    assert len(list(loose.frames(film))) == place["end"] - place["start"]
    assert loose.size_of(film) == (540, 960)
    played = page.get_by_test_id("played")
    expect(played).to_be_visible()
    page.wait_for_function("() => document.querySelector('[data-testid=played]').readyState >= 2")
    assert played.evaluate("film => [film.videoWidth, film.videoHeight]") == [540, 960]
    page.get_by_role("button", name="A frame on", exact=True).click()
    page.wait_for_function("() => document.querySelector('[data-testid=played]').currentTime > 0.03")


def test_several_are_sent_in_one_go_and_what_they_come_to_is_told_before(page, maker, tmp_path):
    page.get_by_role("radio", name="Layers", exact=True).click()
    page.get_by_label("Format").select_option("gif")
    page.get_by_label("Size").select_option("540x960")
    told = page.get_by_test_id("foretold")
    expect(told).to_have_text(re.compile(r"About [\d.]+ [KM]B, in about \d+ s"), timeout=60_000)
    number, unit = re.search(r"About ([\d.]+) ([KM]B)", told.inner_text()).groups()
    size = float(number) * {"KB": 1e3, "MB": 1e6}[unit]
    page.get_by_role("button", name="And another").click()
    page.get_by_label("Format").select_option("webp")
    page.get_by_role("button", name="And another").click()
    expect(page.locator("[data-together]")).to_have_count(2)
    page.get_by_role("button", name="Do not send the Animated WebP").click()
    page.get_by_label("Format").select_option("png")
    page.get_by_role("button", name="Send all 2").click()
    buttons = page.get_by_role("button", name="Download")
    expect(buttons).to_have_count(2, timeout=120_000)
    expect(page.locator("[data-together]")).to_have_count(0)
    kept = []
    for n in range(2):
        with page.expect_download() as download:
            buttons.nth(n).click()
        kept.append(tmp_path / download.value.suggested_filename)
        download.value.save_as(kept[-1])
    assert sorted(p.suffix for p in kept) == [".gif", ".png"]
    still, moving = sorted(kept, key=lambda p: p.suffix, reverse=True)
    assert cv2.imread(str(still), cv2.IMREAD_UNCHANGED).shape == (960, 540, 4)
    with Image.open(moving) as gif:
        assert gif.size == (540, 960)
        assert gif.n_frames > 10
    # It is told by a few frames of it.
    assert size / moving.stat().st_size == pytest.approx(1, abs=0.5)


def test_snags_are_counted_shown_and_mended(page, maker):
    view = maker.view()
    with urllib.request.urlopen(f"{maker.url}api/projects/{view['project']['id']}/snags") as told:
        before = len(json.load(told)["snags"])
    leap = next(x for x in view["project"]["layers"] if x["name"] == "Leap 2")
    matte = {**view["holds"][leap["source"]["hold"]]["matte"], "fringe": 0}
    edit = {"kind": "change matte", "hold": leap["source"]["hold"], "matte": matte}
    url = f"{maker.url}api/projects/{view['project']['id']}/edits"
    body = json.dumps({"revision": view["revision"], "edit": edit}).encode()
    urllib.request.urlopen(urllib.request.Request(url, body, {"Content-Type": "application/json"}))
    snag = page.locator("[data-snag=fringe]")
    expect(snag).to_contain_text("What was behind Leap 2 is left in its edge.", timeout=60_000)
    expect(page.get_by_test_id("snag-count")).to_have_text(str(before + 1))
    snag.get_by_role("button", name="Show me").click()
    expect(page.get_by_test_id("carve")).to_be_visible()
    maker.step("Send")
    snag.get_by_role("button", name="Clean the edge").click()
    expect(snag).to_have_count(0, timeout=60_000)
    maker.settled()
    assert maker.view()["holds"][leap["source"]["hold"]]["matte"]["fringe"] > 0


def test_a_bundle_is_made_and_opened_as_a_project_of_its_own(page, maker, tmp_path):
    page.get_by_text("To work on elsewhere").scroll_into_view_if_needed()
    buttons = page.get_by_role("button", name="Download")
    before = buttons.count()
    page.get_by_role("button", name="Make a bundle").click()
    expect(buttons).to_have_count(before + 1, timeout=60_000)
    with page.expect_download() as download:
        buttons.first.click()
    path = tmp_path / download.value.suggested_filename
    download.value.save_as(path)
    assert path.name.endswith(".kite.zip")
    with zipfile.ZipFile(path) as archive:
        assert {"piece.json", "schema.json"} <= set(archive.namelist())
    page.get_by_role("button", name="Nervy Kite").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Open a bundle").click()
    chooser.value.set_files(path)
    expect(page.get_by_role("button", name="Project name: Gull Point relay 2. Enter renames")).to_be_visible(
        timeout=60_000
    )
    assert len(maker.view()["project"]["layers"]) == 4
    (tmp_path / "half.zip").write_bytes(path.read_bytes()[:5000])
    page.get_by_role("button", name="Nervy Kite").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Open a bundle").click()
    chooser.value.set_files(tmp_path / "half.zip")
    expect(page.get_by_text("is not a bundle, or only half of one")).to_be_visible()


def test_tones_and_a_timeline_with_its_footage_go_along(page, maker, tmp_path):
    maker.step("Dress")
    expect(page.get_by_role("button", name="Tones as a table")).to_have_count(0)
    maker.put_on("Tone", "Duotone")
    with page.expect_download() as download:
        page.get_by_role("button", name="Tones as a table").click()
    assert download.value.suggested_filename == "Gull Point relay Leap 2.cube"
    download.value.save_as(tmp_path / "tones.cube")
    table = read_table(tmp_path / "tones.cube", "tones.cube")
    # Two tones have nothing of the colours: red and blue of one lightness come out alike.
    grey = table.values[16, 16, 16]
    assert np.abs(table.values[0, 0, 0] - table.values[32, 32, 32]).max() > 0.3
    assert ((table.values[0, 0, 0] - 0.02 <= grey) | (table.values[32, 32, 32] - 0.02 <= grey)).all()
    maker.step("Send")
    page.get_by_text("To work on elsewhere").scroll_into_view_if_needed()
    page.get_by_role("button", name="Collected").click()
    buttons = page.get_by_role("button", name="Download")
    expect(buttons).to_have_count(1, timeout=160_000)
    with page.expect_download() as download:
        buttons.first.click()
    download.value.save_as(tmp_path / "relay.otioz")
    with zipfile.ZipFile(tmp_path / "relay.otioz") as archive:
        names = set(archive.namelist())
    assert {"content.otio", "media/Dune run.mp4", "media/Sound of the footage.wav"} <= names
    assert any(name.startswith("media/Leap 2.") for name in names)

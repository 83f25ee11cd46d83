"""Cutouts and the cut go out, into another project, and are the same there, to the pixel and to the frame."""

import zipfile

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from .driver import CLIP, Maker

pytestmark = pytest.mark.journey


def downloaded(maker: Maker, press, folder):
    """A file that is sent once something is pressed."""
    page = maker.page
    buttons = page.get_by_role("button", name="Download")
    before = buttons.count()
    press()
    expect(buttons).to_have_count(before + 1, timeout=120_000)
    with page.expect_download() as download:
        buttons.first.click()
    path = folder / download.value.suggested_filename
    download.value.save_as(path)
    return path


def still(maker: Maker, folder) -> np.ndarray:
    """What is chosen, over nothing, as a still of the frame at the playhead."""
    page = maker.page
    page.get_by_role("radio", name="Layers", exact=True).click()
    page.get_by_label("Format").select_option("png")
    path = downloaded(maker, lambda: page.get_by_role("button", name="Send", exact=True).last.click(), folder)
    return cv2.imread(str(path), cv2.IMREAD_UNCHANGED)


def test_all_goes_out_and_comes_back_in(page, server, tmp_path):
    page.set_default_timeout(90_000)
    maker = Maker.at(page, server.url, "Gull Point relay")
    maker.step("Send")
    first = maker.view()
    archive = downloaded(maker, lambda: page.get_by_role("button", name="All cutouts").click(), tmp_path)
    with zipfile.ZipFile(archive) as stills:
        names = stills.namelist()
        stills.extractall(tmp_path)
    assert len(names) == len(first["holds"])
    with page.expect_download() as download:
        page.get_by_role("button", name="Write a timeline").click()
    timeline = tmp_path / download.value.suggested_filename
    download.value.save_as(timeline)
    assert timeline.suffix == ".otio"

    page.get_by_role("button", name="Nervy Kite").click()
    maker.new_project("Back in")
    maker.import_file(CLIP)
    maker.step("Send")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Read one").click()
    chooser.value.set_files(timeline)
    expect(page.get_by_test_id("left-out")).to_contain_text("The track Leap 1 is left out")
    maker.settled()
    again = maker.view()
    # Behind what the import put there lies what the timeline says, frame by frame.
    assert [i["frames"] for i in again["items"]][1:] == [i["frames"] for i in first["items"]]

    # A cutout comes back as a picture: where it was, pixel for pixel.
    name = next(n for n in names if "Leap 2" in n)
    given = cv2.imread(str(tmp_path / name), cv2.IMREAD_UNCHANGED)
    maker.drop_file(tmp_path / name)
    page.keyboard.press("s")
    page.get_by_role("button", name=f"Add {name.removesuffix('.png')} to the sky").click()
    page.keyboard.press("s")
    maker.settled()
    maker.step("Send")
    seen = still(maker, tmp_path)
    assert seen.shape == given.shape
    assert np.array_equal(seen[..., 3], given[..., 3])
    solid = given[..., 3] == 255
    # Light is the same; colours are those of a film, which has one for four pixels.
    light = [cv2.cvtColor(p[..., :3], cv2.COLOR_BGR2GRAY).astype(int)[solid] for p in (seen, given)]
    assert np.abs(light[0] - light[1]).max() <= 8
    assert np.abs(seen[..., :3].astype(int) - given[..., :3].astype(int))[solid].mean() < 2

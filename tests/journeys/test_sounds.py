"""Sounds by hand: a hit on the frame that a copy appears at, its move sounded, what is sent of it."""

import av
import numpy as np
import pytest
from playwright.sync_api import expect

from .driver import Maker

pytestmark = pytest.mark.journey
HELD = 70


def samples(path) -> np.ndarray:
    """The sound of a file at 48 kHz, mono, from its first picture on."""
    with av.open(str(path)) as file:
        stream = file.streams.audio[0]
        frames = list(file.decode(stream))
        first = float(frames[0].pts * stream.time_base)
        whole = np.concatenate([f.to_ndarray().mean(0) for f in frames])
    lead = round(first * 48_000)
    return whole[-lead:] if lead < 0 else np.concatenate([np.zeros(lead), whole])


def test_hits_are_heard_on_their_frames(page, server, tmp_path):
    page.set_default_timeout(60_000)
    maker = Maker.at(page, server.url, "Gull Point relay")
    (item,) = maker.view()["project"]["ground"]
    maker.edit_elsewhere(kind="change loudness", items=[item["id"]], changes={"muted": True})
    maker.step("Sound")
    page.locator('[data-layer="Leap 3"] [data-span]').click()
    maker.to_frame(HELD + 5)
    page.get_by_role("button", name="Add Tick").click()
    maker.settled()
    page.get_by_role("button", name="Add Slam").click()
    maker.settled()
    bar = page.locator('[data-cue="Slam"]')
    expect(bar).to_be_visible()
    tick, slam = maker.view()["project"]["cues"]
    assert (tick["tie"]["to"], tick["tie"]["offset"]) == ("landing", 5)
    # Dragged along it keeps what it is tied to.
    box = bar.bounding_box()
    per = page.locator('[data-item="Dune run"]').bounding_box()["width"] / 132
    maker.drag((box["x"] + 4, box["y"] + 8), (box["x"] + 4 + 12 * per, box["y"] + 8))
    maker.settled()
    slam = maker.view()["project"]["cues"][1]
    assert slam["tie"]["layer"] == tick["tie"]["layer"]
    assert slam["tie"]["offset"] == pytest.approx(17, abs=1)
    page.locator('[data-cue="Tick"]').click()
    maker.field("Loudness", 0)
    assert maker.view()["project"]["cues"][0]["gain"] == 0

    maker.small()
    loud = np.convolve(np.abs(samples(maker.sent_part(tmp_path, HELD, HELD + 30))), np.ones(96) / 96, "same")
    first = np.argmax(loud > 0.05) / 48_000 * 30
    assert first == pytest.approx(5, abs=1)
    late = int(11 / 30 * 48_000)
    assert loud[int(9 / 30 * 48_000) : late].max() < 0.08
    second = (late + np.argmax(loud[late:] > 0.08)) / 48_000 * 30
    assert second == pytest.approx(slam["tie"]["offset"], abs=1)

    # One press puts on what fits, and Delete takes one away.
    maker.step("Sound")
    page.get_by_role("button", name="Sound Leap 3").click()
    maker.settled()
    names = [c["name"] for c in maker.view()["project"]["cues"]]
    assert "Shutter" in names
    page.locator('[data-cue="Shutter"]').focus()
    page.keyboard.press("Delete")
    maker.settled()
    assert "Shutter" not in [c["name"] for c in maker.view()["project"]["cues"]]

"""A shutter on the freeze, a whoosh under the drop and a thud where it lands, music that steps back under them, and the
cut on a beat: measured in what is sent."""

import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.draw.sound.loudness import loudness
from nervykite.core.piece.model import Sounding
from nervykite.demo import FOOTAGE
from tools.bench.sound import decoded, found_at

from .driver import Maker

pytestmark = pytest.mark.journey
UP, DOWN, TUNE = (FOOTAGE / name for name in ("kite-catch.mp4", "splash-down.mp4", "relay-tune.ogg"))
FROZEN = 40
RATE = 48_000


def test_what_is_sent_sounds_on_its_frames(page, server, tmp_path):
    page.set_default_timeout(60_000)
    maker = Maker.over(page, server.url, "Sounding", UP, DOWN)
    maker.settled()
    fly(maker)
    put_sounds(maker)
    onto_a_beat(maker)
    judge(maker, tmp_path)


def fly(maker: Maker) -> None:
    """A freeze in the first shot, under a cutout of its frame; and one that drops onto the cut."""
    page = maker.page
    maker.step("Catch")
    maker.to_frame(FROZEN)
    page.get_by_role("button", name="Stand still", exact=True).click()
    expect(page.get_by_test_id("carve")).to_be_visible()
    maker.settled()
    cut = next(i["start"] for i in maker.view()["items"] if i["name"] == "splash-down")
    maker.step("Catch")
    maker.to_frame(cut)
    page.keyboard.press("h")
    expect(page.get_by_test_id("carve")).to_be_visible()
    maker.step("Fly")
    page.get_by_role("radiogroup", name="Arrangement").get_by_role("radio", name="Arrival").click()
    maker.settled()
    page.get_by_role("button", name="Drop", exact=True).click()
    maker.settled()


def put_sounds(maker: Maker) -> None:
    """Music from the first frame on; then what fits the two that fly, and a line that brings the music down."""
    page = maker.page
    maker.step("Sound")
    maker.drop_file(TUNE)
    tune = page.get_by_role("button", name="Add relay-tune")
    expect(tune).to_be_visible(timeout=60_000)
    page.keyboard.press("Home")
    tune.click()
    maker.settled()
    expect(page.get_by_text("100.0 beats a minute")).to_be_visible()
    maker.field("Loudness", -12)
    expect(page.get_by_test_id("beats")).to_be_visible()
    page.locator('[data-layer="Cutout 1"] [data-span]').click()
    maker.to_frame(FROZEN)
    page.get_by_role("button", name="Add Shutter").click()
    maker.settled()
    page.locator('[data-layer="Cutout 2"] [data-span]').click(position={"x": 10, "y": 8})
    page.get_by_role("button", name="Sound Cutout 2").click()
    maker.settled()
    names = [c["name"] for c in maker.view()["project"]["cues"]]
    assert {"relay-tune", "Shutter", "Whoosh", "Thud"} <= set(names)
    # The second shutter, on the landing, is one too many.
    page.locator('[data-cue="Shutter 2"]').focus()
    page.keyboard.press("Delete")
    maker.settled()
    # Quiet enough not to be limited, so that what is missing can be told.
    page.locator('[data-cue="Thud"]').click()
    maker.field("Loudness", -9)


def onto_a_beat(maker: Maker) -> None:
    """Freeze and cut come to lie on beats, and every sound goes along with what it is tied to."""
    page = maker.page
    page.get_by_label("The sound that is shaped").select_option(value=cue(maker.view(), "relay-tune")["id"])
    page.locator('[data-layer="Cutout 1"] [data-span]').click()
    page.locator('[data-layer="Cutout 2"] [data-span]').click(position={"x": 10, "y": 8}, modifiers=["Control"])
    page.get_by_label("Every so many beats").select_option("4")
    page.get_by_role("button", name="Put 2 layers on the beat").click()
    maker.settled()
    view = maker.view()
    beats = [b["frame"] for b in view["cue_places"][cue(view, "relay-tune")["id"]]["beats"]]
    for place in view["layers"].values():
        assert min(abs(b - place["landing"]) for b in beats) <= 0.5
    # Frozen near the second beat, and cut four beats of 18 frames later.
    assert sorted(p["landing"] for p in view["layers"].values()) == pytest.approx([36, 108], abs=1)


def heard_of(maker: Maker, folder) -> np.ndarray:
    """The sound of what is sent, whose picture is as small as it can be."""
    maker.small()
    return decoded(maker.send(folder))


def judge(maker: Maker, folder) -> None:
    """Two files, one whose music steps back under hits and one whose does not, at the loudness that it was mixed to."""
    page = maker.page
    page.get_by_text("The mix", exact=True).click()
    expect(page.get_by_test_id("loudness")).to_contain_text("-14.0 LUFS")
    loud = heard_of(maker, folder)
    assert loudness([np.ascontiguousarray(loud)]) == pytest.approx(-14, abs=0.3)
    maker.step("Sound")
    page.get_by_text("The mix", exact=True).click()
    page.get_by_text("To a loudness").locator("..").locator("label").click()
    maker.settled()
    maker.field("Steps back by", 12)
    view = maker.view()
    down = heard_of(maker, folder)

    found = 0
    for one in view["project"]["cues"]:
        if one["name"] == "relay-tune":
            continue
        sound = Sounding.family.parse(one["sound"])
        own = sound.made()[:, : RATE // 2]
        begins = view["cue_places"][one["id"]]["start"] / 30 * RATE
        at = found_at(down, own, round(begins), 4 * 1600)
        assert abs(at - begins) <= 1600, one["name"]
        found += 1
    assert found >= 3

    maker.step("Sound")
    page.get_by_text("The mix", exact=True).click()
    maker.field("Steps back by", 0)
    plain = heard_of(maker, folder)
    count = min(plain.shape[1], down.shape[1])
    less = plain[:, :count] - down[:, :count]
    tune = decoded(TUNE)[:, :count] * 10 ** (cue(view, "relay-tune")["gain"] / 20)
    thud = round(view["cue_places"][cue(view, "Thud")["id"]]["frame"] / 30 * RATE)
    under = slice(thud, thud + RATE // 10)
    # What is missing under the thud is three quarters of the music, and nothing else but what the encoder makes of it.
    alike = np.corrcoef(less[:, under].ravel(), tune[:, under].ravel())[0, 1]
    share = np.sqrt((less[:, under] ** 2).mean() / (tune[:, under] ** 2).mean())
    assert alike > 0.85
    assert share == pytest.approx(1 - 10 ** (-12 / 20), abs=0.12)
    early = slice(0, RATE // 2)
    assert np.sqrt((less[:, early] ** 2).mean()) < 0.1 * np.sqrt((tune[:, early] ** 2).mean())


def cue(view: dict, name: str) -> dict:
    return next(c for c in view["project"]["cues"] if c["name"] == name)

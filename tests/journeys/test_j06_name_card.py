"""Everything stands; she swells forward, a name between her body and the arm that holds out the reel, a club's badge
twirls in, the world goes soft; all leaves the way it came, and the footage goes on, its sound never stopped."""

import av
import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose
from nervykite.demo import FOOTAGE

from ..truth import truth_alpha
from .conftest import filmed
from .driver import Maker

pytestmark = pytest.mark.journey
CLIP = FOOTAGE / "reel-out.mp4"
HELD, AT, LASTS = 44, 45, 30
"""The frame that is held; from which frame of the piece on all stands, and for how long."""
REST = AT + LASTS // 2
ARM = [(520, 300), (719, 300), (719, 800), (560, 800), (520, 620)]
"""Around the arm that holds out the reel, in source pixels."""


def samples(path) -> np.ndarray:
    """The sound of a file, mono, float (n)."""
    with av.open(str(path)) as file:
        parts = [f.to_ndarray().mean(0) for f in file.decode(audio=0)]
        rate = file.streams.audio[0].rate
    whole = np.concatenate(parts)
    return whole[: len(whole) // (rate // 10) * (rate // 10)].reshape(-1, rate // 10)


def test_the_card(page, serving, tmp_path_factory, tmp_path):
    page.set_default_timeout(60_000)
    maker = Maker.at(page, serving(filmed(tmp_path_factory, "Reel", CLIP)).url, "Reel")
    maker.to_frame(HELD)
    page.get_by_role("button", name="Stand still", exact=True).click()
    expect(page.get_by_test_id("carve")).to_be_visible()
    carve(maker)
    fly(maker)
    name(maker)
    badge(maker)
    dress(maker)
    judge(maker, tmp_path)


def carve(maker: Maker) -> None:
    """The body by a pick, and the arm by the same pick within a loose line: two cutouts of one frame."""
    page = maker.page
    page.get_by_role("button", name="Pick person").click()
    expect(page.get_by_test_id("carve")).to_have_attribute("data-busy", "no", timeout=60_000)
    maker.settled()
    page.locator('[data-layer="Cutout 1"] [data-span]').click()
    page.keyboard.press("Control+d")
    maker.settled()
    page.locator('[data-layer="Cutout 2"] [data-span]').click()
    page.get_by_role("button", name="Make separate").click()
    maker.settled()
    maker.draw_around(ARM)
    maker.settled()
    page.get_by_role("radio", name="Overlap").click()
    maker.settled()
    layers = maker.view()["project"]["layers"]
    assert [x["name"] for x in layers] == ["Cutout 1", "Cutout 2"]
    pieces = [maker.view()["holds"][x["source"]["hold"]]["matte"]["pieces"] for x in layers]
    assert [p["combine"] for p in pieces[1]] == ["add", "overlap"]


def fly(maker: Maker) -> None:
    """Both together swell by an eighth, and back."""
    page = maker.page
    maker.step("Fly")
    page.locator('[data-layer="Cutout 1"] [data-span]').click()
    page.locator('[data-layer="Cutout 2"] [data-span]').click(modifiers=["Shift"])
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Group", exact=True).click()
    maker.settled()
    page.get_by_role("button", name="Swell", exact=True).click()
    maker.settled()
    maker.field("Larger by", 12)
    page.get_by_role("button", name="Mirror as exit").click()
    maker.settled()


def name(maker: Maker) -> None:
    """A name on an arc, right above the body and so below the arm; its letters come and go."""
    page = maker.page
    maker.to_frame(AT)
    page.locator('[data-layer="Cutout 1"] [data-span]').click()
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Lettering", exact=True).click()
    words = page.get_by_label("Words", exact=True)
    words.fill("MARA")
    words.press("Control+Enter")
    maker.settled()
    page.get_by_role("radiogroup", name="Runs").get_by_role("radio", name="Arc").click()
    maker.settled()
    for label, value in (("Size", 190), ("Bend", 40)):
        maker.field(label, value)
    field = page.get_by_label("Colour", exact=True).first
    field.fill("#00FF00")
    field.press("Enter")
    maker.settled()
    page.get_by_role("button", name="Letters come and go").click()
    page.get_by_role("radiogroup", name="They").get_by_role("radio", name="Rise").click()
    maker.settled()
    page.get_by_role("button", name="Come in", exact=True).click()
    page.get_by_role("button", name="Go out", exact=True).click()
    maker.settled()
    layers = maker.view()["project"]["layers"]
    group = next(x["id"] for x in layers if x["source"]["kind"] == "group")
    inside = [x["name"] for x in layers if x["group"] == group]
    assert inside == ["Cutout 1", "MARA", "Cutout 2"]
    name_ = next(x["id"] for x in layers if x["name"] == "MARA")
    assert maker.view()["layers"][name_]["start"] == AT
    # It stands where the arm crosses it, as long as everything stands.
    maker.step("Fly")
    maker.field("Across", 70)
    maker.field("Down", -60)


def badge(maker: Maker) -> None:
    """A club's badge twirls in and out."""
    page = maker.page
    maker.drop_file(FOOTAGE / "badges" / "harbour-hares.svg")
    expect(page.get_by_text("harbour-hares", exact=False).first).to_be_visible()
    page.keyboard.press("Escape")
    maker.to_frame(AT)
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Add harbour-hares", exact=True).click()
    maker.settled()
    maker.field("Last frame", AT + LASTS - 1)
    maker.field("Scale", 30)
    maker.field("Across", -230)
    maker.field("Down", -330)
    page.get_by_role("button", name="Twirl", exact=True).click()
    maker.settled()
    page.get_by_role("button", name="Mirror as exit").click()
    maker.settled()


def dress(maker: Maker) -> None:
    """A shape behind her in a colour of her clothes, and the world behind goes soft."""
    page = maker.page
    maker.to_frame(REST)
    page.locator('[data-layer="Cutout 1"] [data-span]').click()
    maker.step("Dress")
    page.get_by_role("button", name="Keep #", exact=False).first.click()
    maker.settled()
    (colour,) = maker.view()["project"]["palette"]
    maker.put_on("Edge", "Backing shape")
    field = page.locator("[data-finish=backing-shape]").get_by_label("Colour", exact=True)
    field.fill(colour)
    field.press("Enter")
    maker.settled()
    # It comes and goes: nothing of it on the first frame, nor on the last.
    for frame, value in ((AT, 0), (AT + 6, 100), (AT + LASTS - 7, 100), (AT + LASTS - 1, 0)):
        maker.to_frame(frame)
        page.locator("[data-finish=backing-shape]").get_by_role("button", name="Set opacity key").click()
        maker.settled()
        maker.field("Opacity", value)
    page.locator('[data-layer="Group 1"] [data-span]').click()
    page.get_by_role("button", name="Blur it", exact=True).click()
    maker.settled()
    page.get_by_test_id("timeline").get_by_role("button", name="Standstill of reel-out").click()
    maker.step("Catch")
    page.get_by_role("radiogroup", name="Sound").get_by_role("radio", name="Runs on").click()
    maker.settled()


def judge(maker: Maker, folder) -> None:
    """What was sent."""
    first = AT - 1
    sent = maker.sent_part(folder, first, AT + LASTS + 20)
    looked_at = (first, AT, REST, AT + LASTS - 1, AT + LASTS)
    shown = {n: loose.around(sent, n - first, None)[0].astype(int) for n in looked_at}
    clip = {n: loose.around(CLIP, n, None)[0].astype(int) for n in (HELD, HELD + 1)}
    # Where it begins and ends nobody can tell it from the footage, which goes on at the next frame.
    for frame, source in ((AT - 1, HELD), (AT, HELD), (AT + LASTS - 1, HELD), (AT + LASTS, HELD + 1)):
        assert np.abs(shown[frame] - clip[source]).mean() < 3.0, frame
    # She is an eighth larger, about the middle of what was cut out.
    body = truth_alpha("reel-out", HELD)
    rest, before = shown[REST].astype(np.float32), clip[HELD].astype(np.float32)
    group = next(x for x in maker.view()["project"]["layers"] if x["source"]["kind"] == "group")
    at = group["anchor"]
    fits = {}
    for scale in (1.0, 1.06, 1.12, 1.18):
        matrix = np.array([[scale, 0, at[0] * (1 - scale)], [0, scale, at[1] * (1 - scale)]])
        larger = cv2.warpAffine(before, matrix, (720, 1280))
        inside = cv2.erode(cv2.warpAffine(body, matrix, (720, 1280)), np.ones((25, 25))) > 0.99
        fits[scale] = np.median(np.abs(larger - rest).mean(-1)[inside])
    assert min(fits, key=fits.get) == 1.12
    # The name lies over her body and under her arm.
    green = np.abs(rest - (0, 255, 0)).max(-1) < 40
    matrix = np.array([[1.12, 0, at[0] * -0.12], [0, 1.12, at[1] * -0.12]])
    figure = cv2.warpAffine(body, matrix, (720, 1280)) > 0.9
    line = np.zeros(body.shape, np.uint8)
    cv2.fillPoly(line, [np.array(ARM)], 1)
    arm = (cv2.warpAffine(body * line, matrix, (720, 1280)) > 0.98).astype(np.uint8)
    arm = cv2.erode(arm, np.ones((9, 9))).astype(bool)
    assert green.sum() > 8000
    assert (green & figure & ~arm).sum() > 2000
    assert (green & arm).sum() < 0.03 * green.sum()
    span = np.flatnonzero(green.any(0))
    assert arm[:, span[0] : span[-1]].sum() > 2000, "the arm should cross the name"
    # The world is soft, as at the grass on the dune.
    fine = [np.abs(np.diff(x[715:800, :56].mean(-1), axis=1)).mean() for x in (rest, before)]
    assert fine[0] < 0.6 * fine[1]
    # The badge is there, and its place was empty before.
    corner = np.abs(rest - before)[180:420, 30:240].mean()
    assert corner > 25
    heard = samples(sent)
    loud = np.sqrt((heard**2).mean(1))
    assert len(loud) >= int(10 * (LASTS + 20) / 30)
    assert loud[: int(10 * (LASTS + 20) / 30)].min() > 1e-4

"""Controls that a finish's settings bring along, keys of settings, and the sound that belongs to what is seen."""

import re
from itertools import pairwise

import numpy as np
import pytest
from playwright.sync_api import expect

from .driver import Maker


def test_a_setting_gets_keys_and_the_export_shows_them(page, server, tmp_path):
    """The outline of a copy grows from nothing: its width has a key at two frames."""
    maker = Maker.at(page, server.url, "Gull Point relay")
    page.locator('[data-layer="Leap 1"] [data-span]').click()
    maker.step("Dress")
    page.get_by_role("button", name="Outline", exact=True).click()
    maker.settled()
    maker.field("Width", 0)
    page.get_by_label("Colour", exact=True).fill("#FF00FF")
    page.get_by_label("Colour", exact=True).press("Enter")
    maker.settled()
    maker.to_frame(60)
    page.get_by_role("button", name="Set width key").click()
    maker.settled()
    expect(page.get_by_role("button", name="Remove width key")).to_be_visible()
    maker.to_frame(80)
    maker.field("Width", 30)
    layer = maker.view()["project"]["layers"][0]
    assert [k["channel"].endswith(".width") for k in layer["keys"][-2:]] == [True, True]
    # Between the two the field shows what the server worked out.
    maker.to_frame(70)
    expect(page.get_by_label("Width", exact=True)).to_have_value(re.compile(r"^(1[0-9]|2[0-4])"))
    maker.step("Fly")
    expect(page.get_by_role("button", name="Width key at frame 80")).to_be_visible()
    sent = maker.sent(tmp_path, 58, 70, 80, 90)
    pink = [(np.abs(sent[f].astype(int) - [255, 0, 255]).max(-1) < 90).sum() for f in (58, 70, 80, 90)]
    assert pink[0] < 200
    assert pink[0] < pink[1] / 3 < pink[2] / 3
    assert abs(pink[3] - pink[2]) < 0.1 * pink[2]
    # Taken off again, the value holds all along.
    maker.step("Dress")
    maker.to_frame(80)
    page.get_by_role("button", name="Remove width key").click()
    maker.settled()
    assert sum(k["channel"].endswith(".width") for k in maker.view()["project"]["layers"][0]["keys"]) == 1


WATCH = """() => {
  window.heard = []
  const start = AudioBufferSourceNode.prototype.start, end = AudioBufferSourceNode.prototype.stop
  AudioBufferSourceNode.prototype.start = function (when, offset, long) {
    const loud = this.buffer ? Math.hypot(...this.buffer.getChannelData(0).slice(0, 40000)) : 0
    window.heard.push(['start', when, offset, long, loud])
    window.clock = this.context
    start.call(this, when, offset, long)
  }
  AudioBufferSourceNode.prototype.stop = function (...a) { window.heard.push(['stop']); end.apply(this, a) }
}"""


APART = """() => new Promise((done) => {
  // How many frames the one that is shown lies from the one that is heard, of forty that go round.
  const found = []
  const look = () => {
    const now = window.clock.currentTime - (window.clock.outputLatency || 0)
    const one = window.heard.find((h) => h[0] === 'start' && h[1] <= now && now < h[1] + h[3])
    if (one && one[2] === 0) {
      const heard = Math.floor(((one[3] < 0.5 ? 1 : 0) + now - one[1]) * 30)
      const code = document.querySelector('[data-testid=timecode]').innerText
      const [minutes, seconds, frames] = code.split(':').map(Number)
      const shown = (minutes * 60 + seconds) * 30 + frames
      const by = (((shown - heard + 20) % 40) + 40) % 40 - 20
      found.push(by)
    }
    if (found.length < 60) requestAnimationFrame(look)
    else done(found)
  }
  requestAnimationFrame(look)
})"""


def _elsewhere(page, edit: str) -> None:
    """Makes an edit from elsewhere, while the page plays."""
    page.evaluate(
        f"""() => fetch('/api/projects/' + location.hash.slice(1)).then((r) => r.json()).then((v) =>
              fetch('/api/projects/' + v.project.id + '/edits', {{ method: 'POST',
                headers: {{ 'Content-Type': 'application/json' }},
                body: JSON.stringify({{ revision: v.revision, edit: {edit} }}) }}))"""
    )


def _starts(heard: list) -> list[list[float]]:
    """When, from where in a second, for how long and how loud each sound was put on since the last one was stopped."""
    stops = [n for n, h in enumerate(heard) if h == ["stop"]]
    return [h[1:] for h in heard[(stops or [-1])[-1] + 1 :] if h[0] == "start"]


@pytest.mark.everything
def test_sound_goes_round_without_a_gap_and_follows_edits(page, server):
    """Second joins second to the sample; what is mixed otherwise is heard at once, and nothing of what was trimmed."""
    maker = Maker(page, server.url)
    page.evaluate(WATCH)
    maker.open("Gull Point relay")
    _elsewhere(page, "{ kind: 'set loop', loop: [0, 40] }")
    maker.settled()
    page.get_by_role("button", name="Play", exact=True).click()
    # Forty frames are a second and a third.
    turns = "window.heard.filter((h) => h[0] === 'start' && Math.abs(h[3] - 1 / 3) < 1e-6)"
    page.wait_for_function(f"() => {turns}.length > 1", timeout=60_000)
    starts = _starts(page.evaluate("window.heard"))
    assert {round(long, 4) for _, _, long, _ in starts[1:]} == {1.0, 0.3333}
    for (when, _, long, _), (then, offset, *_) in pairwise(starts):
        assert then == pytest.approx(when + long, abs=1e-6)
        assert offset == 0

    off = page.evaluate(APART)
    assert len(off) > 20
    # Half of the pictures are on time, and the others as near to it as a machine with other work on its hands has them.
    assert np.median(np.abs(off)) <= 1
    assert np.quantile(np.abs(off), 0.95) <= 6

    # Ten decibels less: the seconds that come are less loud, and none is as it was once they are.
    before = next(h[3] for h in starts if h[2] == 1)
    _elsewhere(page, "{ kind: 'change mix', changes: { loudness: -24 } }")
    page.wait_for_function(
        "b => window.heard.filter((h) => h[0] === 'start' && h[3] === 1 && h[4] < 0.5 * b).length > 1",
        arg=before,
        timeout=60_000,
    )
    louds = [h[4] for h in page.evaluate("window.heard") if h[0] == "start" and h[3] == 1]
    first = next(n for n, loud in enumerate(louds) if loud < 0.5 * before)
    assert louds[first:] == pytest.approx([before * 10 ** (-10 / 20)] * len(louds[first:]), rel=0.1)

    page.evaluate("window.heard.length = 0")
    _elsewhere(page, "{ kind: 'change ground', item: v.ground_order[0], past: 55 }")
    # The trim ends the loop: what is left is played to its end, and no more.
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible(timeout=60_000)
    length = maker.view()["length"] / 30
    # To the end of the piece, or of the second before where the machine is too busy for its last one.
    for last in _starts(page.evaluate("window.heard"))[-1:]:
        assert last[1] + last[2] in (pytest.approx(length % 1 or 1, abs=1e-4), pytest.approx(1, abs=1e-4))


def test_frames_that_are_gone_through_are_heard_unless_that_is_off(page, server):
    maker = Maker(page, server.url)
    page.evaluate(WATCH)
    maker.open("Gull Point relay")
    # Nothing is heard before the first press; from then on the sound at the playhead is there.
    page.get_by_role("button", name="Play", exact=True).click()
    page.wait_for_function("() => window.heard.some((h) => h[0] === 'start')", timeout=60_000)
    page.get_by_role("button", name="Stop", exact=True).click()
    maker.to_frame(20)
    page.evaluate("window.heard.length = 0")
    page.keyboard.press("ArrowRight")
    page.wait_for_function("() => window.heard.some((h) => h[0] === 'start')")
    (_, offset, long, _) = _starts(page.evaluate("window.heard"))[0]
    assert offset == pytest.approx(21 / 30, abs=1e-4)
    assert 0.03 < long < 0.2
    page.get_by_role("button", name="Go through the frames without sound").click()
    page.evaluate("window.heard.length = 0")
    maker.to_frame(33)
    assert page.evaluate("window.heard.filter((h) => h[0] === 'start')") == []

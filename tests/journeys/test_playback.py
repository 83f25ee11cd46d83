"""Playing: what is on screen is what it is time for, read off the pictures themselves."""

import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.demo import FOOTAGE

from ..media import make_video
from .driver import Maker

pytestmark = [pytest.mark.journey, pytest.mark.everything]
FRAMES, RATE = 90, 30

# Lets the clock be read that the piece is played by: the sound's, which stands still where a machine is too full.
LISTEN = """
  window.AudioContext = class extends window.AudioContext {
    constructor(...how) { super(...how); window.heard = this }
  }"""

# The number that is burnt into the picture on the canvas, at each drawing of the page, and when that was on the clock.
READ = """(seconds) => new Promise((done) => {
  const canvas = document.querySelector('[data-testid=picture] canvas')
  const begun = performance.now()
  const clock = () => (window.heard?.state === 'running' ? 1000 * window.heard.currentTime : performance.now())
  const seen = []
  const read = () => {
    const { width, height } = canvas
    const row = canvas.getContext('2d').getImageData(0, Math.round(height / 4), width, 1).data
    let number = 0
    for (let bit = 0; bit < 16; bit++)
      if (row[4 * Math.floor(((2 * bit + 1) * width) / 32)] > 128) number += 2 ** bit
    if (!seen.length || seen.at(-1)[1] !== number) seen.push([clock(), number])
    if (performance.now() - begun < seconds * 1000) requestAnimationFrame(read)
    else done(seen)
  }
  read()
})"""


@pytest.fixture
def maker(page, server, tmp_path):
    """A piece of ninety numbered frames, looped, at Fly."""
    page.set_default_timeout(90_000)
    page.add_init_script(LISTEN)
    maker = Maker.over(page, server.url, "Numbers", make_video(tmp_path / "numbers.mp4", FRAMES, (320, 240), RATE))
    maker.settled()
    maker.step("Fly")
    maker.loop()
    assert maker.view()["project"]["loop"] is not None
    return maker


def test_the_picture_keeps_to_the_clock(page, maker):
    low, high = maker.view()["project"]["loop"]
    for _ in range(4):  # what runs beside this holds pictures up: once without is enough
        page.keyboard.press("Home")
        page.keyboard.press("Space")
        page.wait_for_timeout(3500)  # once round
        seen = page.evaluate(READ, 4)
        page.keyboard.press("Space")
        frames = [n for _, n in seen]
        assert all(low <= n < high for n in frames)
        if _kept(seen, high - low):
            return
    pytest.fail(f"Four times not by the clock: {seen}")


def _kept(seen, length) -> bool:
    """Whether pictures come in order, by the clock, and enough of them to see it move."""
    frames = [n for _, n in seen]
    turns = [k for k in range(1, len(frames)) if frames[k] < frames[k - 1]]  # at the corner of the loop
    since = seen[0]
    off = [((n - since[1]) - (t - since[0]) / 1000 * RATE + length / 2) % length - length / 2 for t, n in seen]
    third = len(off) // 3
    return bool(
        1 <= len(turns) <= 2
        and abs(np.median(off[:third]) - np.median(off[-third:])) < 3
        and np.mean(np.abs(off - np.median(off)) < 4) > 0.8
        and len(frames) > 0.3 * 4 * RATE
    )


def test_scrubbing_ends_on_the_frame_that_was_asked_for_last(page, maker):
    for frame in (77, 12, 53, 31, 64):
        page.keyboard.press("Home")
        for key in ["Shift+ArrowRight"] * (frame // 10) + ["ArrowRight"] * (frame % 10):
            page.keyboard.press(key)
        page.wait_for_function(
            "f => document.querySelector('[data-testid=picture] canvas').dataset.frame === f", arg=str(frame)
        )
        assert page.evaluate(READ, 0.3)[-1][1] == frame


def test_half_as_fine_and_as_it_is_sent(page, maker):
    size = "() => { const c = document.querySelector('[data-testid=picture] canvas'); return [c.width, c.height] }"
    assert page.evaluate(size) == [320, 240]
    maker.page.get_by_label("Quality of the picture").select_option("As sent")
    maker.to_frame(41)
    assert page.evaluate(READ, 0.2)[-1][1] == 41
    maker.page.get_by_label("Quality of the picture").select_option("Half")
    maker.to_frame(20)
    assert page.evaluate(READ, 0.2)[-1][1] == 20
    expect(page.get_by_test_id("picture")).to_be_visible()


def test_a_page_that_nobody_looks_at_asks_for_nothing(page, maker):
    """What is made ready ahead waits while the page is hidden, and goes on when it is looked at again."""
    sent = []
    page.on("websocket", lambda socket: socket.on("framesent", lambda data: sent.append(data)))
    page.add_init_script("Object.defineProperty(document, 'hidden', { get: () => window.nobody ?? true })")
    page.reload()
    expect(page.get_by_test_id("picture")).to_be_visible()
    page.wait_for_function("() => document.querySelector('[data-testid=picture] canvas').dataset.frame !== undefined")
    page.wait_for_timeout(500)
    still = len(sent)
    page.wait_for_timeout(1500)
    assert len(sent) == still
    page.evaluate("window.nobody = false")
    page.wait_for_timeout(1500)
    assert len(sent) > still + 3


# Presses play: how many different frames the canvas shows in so many seconds from then on.
SHOWN = """(seconds) => new Promise((done) => {
  const canvas = document.querySelector('[data-testid=picture] canvas')
  document.querySelector('button[aria-label=Play]').click()
  const begun = performance.now()
  const seen = new Set()
  const read = () => {
    seen.add(canvas.dataset.frame)
    if (performance.now() - begun < seconds * 1000) requestAnimationFrame(read)
    else done(seen.size)
  }
  read()
})"""


def test_what_was_just_dropped_plays_while_it_is_looked_through(page, fresh):
    page.set_default_timeout(90_000)
    maker = Maker(page, fresh.url)
    maker.new_project("At once")
    maker.drop_file(FOOTAGE / "kite-catch.mp4")
    expect(page.locator("[data-item='kite-catch']")).to_be_visible()
    page.wait_for_function("() => document.querySelector('[data-testid=picture] canvas')?.dataset.frame === '0'")
    shown = page.evaluate(SHOWN, 3)
    maker.step("Catch")
    strip = page.get_by_test_id("strip")
    frames = next(iter(maker.view()["shots"].values()))["frames"]
    assert int(strip.get_attribute("data-known")) < frames  # it is looked through still
    assert shown > 15  # of 68, which play for a little more than two seconds
    # And it is looked through all the same, once nobody plays any more.
    expect(strip).to_have_attribute("data-known", str(frames), timeout=120_000)

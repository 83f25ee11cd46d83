"""Everybody can use it: by the rules of WCAG as far as a program can tell, by keyboard alone, without movement."""

import json
import re
import sqlite3
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from .driver import Maker

pytestmark = pytest.mark.journey
AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
STEPS = ("Catch", "Carve", "Fly", "Dress", "Send")
RULES = """async () => (await axe.run(document, { resultTypes: ['violations'] })).violations
  .filter((v) => v.impact === 'serious' || v.impact === 'critical')
  .flatMap((v) => v.nodes.map((n) => `${v.id}: ${v.help}: ${n.html.replace(/ id="[^"]*"/g, '').slice(0, 300)}`))"""
# A colour on its way from one to another is neither of them.
STILL = """() => Promise.allSettled(document.getAnimations()
  .filter((a) => a.effect.getComputedTiming().iterations !== Infinity).map((a) => a.finished))"""
FOCUSED = """() => {
  const e = document.activeElement
  if (!e || e === document.body) return null
  const box = e.getBoundingClientRect(), style = getComputedStyle(e)
  return {
    what: e.outerHTML.slice(0, 140),
    ring: style.outlineStyle !== 'none' && parseFloat(style.outlineWidth) >= 1.5,
    seen: box.width > 2 && box.height > 2 && box.right > 0 && box.left < innerWidth
      && box.bottom > 0 && box.top < innerHeight,
  }
}"""
# What the pointer is told to use, and the keyboard could not come to. The playhead goes by the arrows from anywhere.
POINTER_ONLY = """() => {
  const stop = 'button, a[href], input, select, textarea, [tabindex]:not([tabindex="-1"])'
  const reached = (e) => e.closest(stop) || e.querySelector(stop) || e.closest('[data-testid=ruler]')
  return [...document.querySelectorAll('*')].filter((e) => e.getClientRects().length
    && getComputedStyle(e).cursor === 'pointer' && !reached(e)).map((e) => e.outerHTML.slice(0, 160))
}"""


def faults(page: Page) -> list[str]:
    """What axe finds serious or critical in what the page shows, and finds again a moment later: axe reads colours for
    seconds, in which a button that has just come to life is still on its way."""
    page.evaluate(AXE.read_text())
    found: list[str] = []
    for look in range(3):
        page.wait_for_timeout(400)
        page.evaluate(STILL)
        now = page.evaluate(RULES)
        found = now if look == 0 else [what for what in found if what in now]
        if not found:
            break
    return found


def views(page: Page, maker: Maker):
    """Every main view, one after the other, by its name."""
    expect(page.locator("[data-project]").first).to_be_visible()
    yield "projects"
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    yield "keys"
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    maker.open("Gull Point relay")
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    for step in STEPS:
        maker.step(step)
        maker.settled()
        yield step
    page.get_by_role("button", name="Make", exact=True).click()
    page.get_by_role("button", name="Trail", exact=True).click()
    yield "Make"
    maker.step("Send")
    page.keyboard.press("s")
    expect(page.get_by_text("This project takes")).to_be_visible(timeout=60_000)
    yield "shelf"


@pytest.mark.parametrize("theme", ["Day theme", "Night theme"])
def test_no_view_breaks_the_rules(page, server, theme):
    maker = Maker(page, server.url)
    if theme == "Night theme":
        page.get_by_role("button", name=theme).click()
    page.emulate_media(reduced_motion="reduce")
    found = {name: faults(page) for name in views(page, maker)}
    assert len(found) == 9
    assert {name: what for name, what in found.items() if what} == {}


def test_every_control_is_reached_by_keyboard_and_seen_when_it_is(page, server):
    maker = Maker(page, server.url)
    for name in views(page, maker):
        if name == "keys":
            continue
        assert page.evaluate(POINTER_ONLY) == [], name
        stops, blind = [], []
        page.evaluate("() => document.activeElement?.blur()")
        for _ in range(200):
            page.keyboard.press("Tab")
            focused = page.evaluate(FOCUSED)
            if focused is None or focused["what"] in stops[:1]:
                break
            stops.append(focused["what"])
            if not (focused["ring"] and focused["seen"]):
                blind.append(focused)
        assert blind == [], name
        assert len(stops) > 5, name
        page.keyboard.press("Escape")


def test_a_cutout_is_chosen_moved_and_carved_without_a_pointer(page, server):
    maker = Maker(page, server.url)
    page.get_by_role("button", name="Open Gull Point relay").press("Enter")
    expect(page.get_by_test_id("picture")).to_be_visible()
    page.keyboard.press("3")
    span = page.get_by_role("button", name=re.compile("^Leap 1: Trail"))
    span.focus()
    before = [x["name"] for x in maker.view()["project"]["layers"]]
    page.keyboard.press("Enter")
    expect(span).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("PageUp")
    maker.settled()
    after = [x["name"] for x in maker.view()["project"]["layers"]]
    assert after.index("Leap 1") == before.index("Leap 1") + 1
    span.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("carve")).to_be_visible()


def test_nothing_moves_by_itself_for_those_who_do_not_want_that(page, server):
    Maker(page, server.url)
    page.emulate_media(reduced_motion="reduce")
    expect(page.locator("[data-project]").first).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    long = page.evaluate(
        """() => [...document.querySelectorAll('*')].filter((e) => {
          const s = getComputedStyle(e)
          return `${s.transitionDuration},${s.animationDuration}`.split(',').some((x) => parseFloat(x) > 0.011)
        }).map((e) => e.outerHTML.slice(0, 100))"""
    )
    assert long == []


def test_a_project_that_cannot_be_shown_is_rescued_on_the_page(page, process):
    maker = Maker(page, process.url)
    maker.open("Gull Point relay")
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    maker.step("Fly")
    maker.field("Turn", 30)
    project = page.url.split("#")[1]
    process.kill()
    _break(process.data, project)
    process.start()
    page.goto(f"{process.url}#{project}")
    page.reload()
    heading = page.get_by_role("heading", name="“Gull Point relay” cannot be shown")
    expect(heading).to_be_visible()
    assert faults(page) == []
    page.get_by_role("button", name=re.compile("^Take back “")).click()
    expect(page.get_by_test_id("picture")).to_be_visible()
    expect(heading).to_have_count(0)
    (layer,) = [x for x in maker.view()["project"]["layers"] if x["name"] == "Leap 2"]
    assert (layer["pose"]["rotation"], layer["arrangement"]) == (0, {"kind": "trail"})


def _break(data: Path, project: str) -> None:
    """Makes the last edit of a project one that this program cannot read, as one of another version might be."""
    with sqlite3.connect(data / "nervykite.sqlite") as connection:
        number, text = connection.execute(
            "SELECT number, changes FROM edits WHERE project = ? ORDER BY number DESC LIMIT 1", (project,)
        ).fetchone()
        changes = json.loads(text)
        (change,) = [c for c in changes if c["table"] == "layers"]
        change["after"]["arrangement"] = "sideways"
        connection.execute("UPDATE layers SET arrangement = 'sideways' WHERE id = ?", (change["id"],))
        connection.execute(
            "UPDATE edits SET changes = ? WHERE project = ? AND number = ?", (json.dumps(changes), project, number)
        )
    connection.close()


def test_a_deleted_project_is_restored_or_deleted_for_good(page, server):
    Maker(page, server.url)
    page.get_by_role("button", name="Duplicate Gull Point relay").click()
    page.get_by_role("button", name="Delete Gull Point relay 2").click()
    page.get_by_role("button", name="Deleted (1)").click()
    page.get_by_role("button", name="Restore Gull Point relay 2").click()
    expect(page.locator('[data-project="Gull Point relay 2"]')).to_be_visible()
    expect(page.get_by_role("button", name="Deleted (1)")).to_have_count(0)
    page.get_by_role("button", name="Delete Gull Point relay 2").click()
    expect(page.get_by_role("button", name="Deleted (1)")).to_be_visible()
    assert faults(page) == []
    page.get_by_role("button", name="Delete for good: Gull Point relay 2").click()
    expect(page.get_by_role("button", name="Deleted (1)")).to_have_count(0)
    expect(page.locator('[data-project="Gull Point relay 2"]')).to_have_count(0)

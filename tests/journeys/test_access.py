"""A project that cannot be shown is rescued on the page, by the rules of WCAG as far as a program can tell."""

import json
import re
import sqlite3
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from .driver import Maker

pytestmark = pytest.mark.journey
AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
RULES = """async () => (await axe.run(document, { resultTypes: ['violations'] })).violations
  .filter((v) => v.impact === 'serious' || v.impact === 'critical')
  .flatMap((v) => v.nodes.map((n) => `${v.id}: ${v.help}: ${n.html.replace(/ id="[^"]*"/g, '').slice(0, 300)}`))"""
# A colour on its way from one to another is neither of them.
STILL = """() => Promise.allSettled(document.getAnimations()
  .filter((a) => a.effect.getComputedTiming().iterations !== Infinity).map((a) => a.finished))"""


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

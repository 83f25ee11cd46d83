"""Takes the pictures of the main views, from the demo data: `python docs/take_screenshots.py`."""

import subprocess
import sys
import tempfile
from pathlib import Path

import cv2
import numpy as np
from playwright.sync_api import Page, sync_playwright

from nervykite.core.see.footage import loose
from nervykite.demo.demo_project import FOOTAGE, NAME
from tools.bench.browser import CHROMIUM, FLAGS, wait_for
from tools.world.shots import SHOTS

OUT = Path(__file__).parent / "screenshots"
PORT = 8499


def to_frame(page: Page, frame: int) -> None:
    """Steps to a frame."""
    page.keyboard.press("Home")
    for key in ["Shift+ArrowRight"] * (frame // 10) + ["ArrowRight"] * (frame % 10):
        page.keyboard.press(key)
    page.wait_for_selector(f'[data-testid=picture] canvas[data-frame="{frame}"]')


def choose(page: Page, layer: str, **more) -> None:
    """Chooses a layer in the sky, wherever its lane lies."""
    lane = page.locator(f'[data-layer="{layer}"] [data-span]')
    for _ in range(12):
        if lane.count():
            break
        page.mouse.move(700, 640)
        page.mouse.wheel(0, 120)
        page.wait_for_timeout(150)
    lane.click(**more)


def shoot(page: Page, name: str) -> None:
    """Waits until nothing moves, and takes the picture."""
    page.mouse.move(640, 790)
    if page.locator("header").get_by_text("Sav", exact=False).count():
        page.get_by_text("Saved", exact=True).wait_for()
    page.wait_for_timeout(1800)
    page.screenshot(path=OUT / f"{name}.png")


def sheet() -> None:
    """A still of each demo shot, side by side."""
    stills = []
    for name, shot in SHOTS.items():
        number = next(iter(shot.holds), 0)
        picture, _, _ = loose.around(FOOTAGE / f"{name}.mp4", number, None)
        stills.append(cv2.resize(picture, (180, 320), interpolation=cv2.INTER_AREA))
    blank = np.full_like(stills[0], 235)
    stills += [blank] * (-len(stills) % 6)
    rows = [np.hstack(stills[k : k + 6]) for k in range(0, len(stills), 6)]
    cv2.imwrite(str(OUT / "shots.png"), np.vstack(rows)[..., ::-1])


def put_on(page: Page, family: str, finish: str) -> None:
    """Puts a finish on what is dressed."""
    page.get_by_role("radio", name=family, exact=True).click()
    page.get_by_role("button", name=finish, exact=True).first.click()
    page.wait_for_timeout(600)


def lettering(page: Page) -> None:
    """A name behind the subject, over rays, at the standstill."""
    choose(page, "Wash")
    page.keyboard.press("Delete")
    to_frame(page, 60)
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Backdrop", exact=True).click()
    page.wait_for_timeout(800)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Lettering", exact=True).click()
    words = page.get_by_label("Words", exact=True)
    words.fill("OVER THE\nDUNE")
    page.get_by_role("button", name="Titan One", exact=True).click()
    page.wait_for_timeout(600)
    for label, value in (("Size", 112), ("Line", 8)):
        page.get_by_label(label, exact=True).fill(str(value))
        page.keyboard.press("Enter")
        page.wait_for_timeout(400)
    page.get_by_role("radio", name="Arc", exact=True).click()
    page.wait_for_timeout(600)
    page.get_by_label("What is shown here").scroll_into_view_if_needed()
    page.get_by_label("Words", exact=True).scroll_into_view_if_needed()
    shoot(page, "lettering")


def sounds(page: Page) -> None:
    """The music, with its line, its beats, and what is heard beside it."""
    page.keyboard.press("5")
    choose(page, "Leap 3")
    to_frame(page, 70)
    page.locator('[data-cue="Relay tune"]').click()
    for x, y in ((150, 48), (190, 92), (262, 92)):
        page.get_by_test_id("wave").dblclick(position={"x": x, "y": y})
        page.wait_for_timeout(700)
    page.get_by_text("The mix", exact=True).click()
    page.wait_for_timeout(1500)
    shoot(page, "sound")


def labelled(pictures: list, size: tuple[int, int]) -> list[np.ndarray]:
    """Small pictures, each in a cell of a size (w, h) with its title below."""
    cells = []
    for title, data in pictures:
        found = cv2.imdecode(np.array(data, np.uint8), 1)
        cell = np.full((size[1] + 28, size[0] + 8, 3), 242, np.uint8)
        cell[4 : 4 + size[1], 4 : 4 + size[0]] = cv2.resize(found, size, interpolation=cv2.INTER_AREA)
        at = 6, size[1] + 20
        cv2.putText(cell, title, at, cv2.FONT_HERSHEY_SIMPLEX, 0.45, (48, 37, 30), 1, cv2.LINE_AA)
        cells.append(cell)
    return cells


def in_rows(cells: list[np.ndarray], wide: int) -> np.ndarray:
    """Cells in rows of so many."""
    cells = cells + [np.full_like(cells[0], 242)] * (-len(cells) % wide)
    return np.vstack([np.hstack(cells[k : k + wide]) for k in range(0, len(cells), wide)])


def contact(page: Page) -> None:
    """All cards with a name, all shapes, things in the air and backdrops."""
    pictures = page.evaluate(
        """async () => {
          const project = location.hash.slice(1)
          const { cards, sources } = await (await fetch('/api/catalog')).json()
          const words = new URLSearchParams({ name: 'Juno Abara', line: 'Harbour Hares, leg two' })
          const of = (url) => async (k) => {
            const answer = await fetch(url(k))
            return [k.title, [...new Uint8Array(await answer.arrayBuffer())]]
          }
          const kinds = ['shape', 'air', 'backdrop'].flatMap((looks) => sources.filter((s) => s.looks === looks))
          return [
            await Promise.all(cards.map(of((k) => `/api/projects/${project}/cards/${k.kind}.jpg?${words}`))),
            await Promise.all(kinds.map(of((k) => `/api/samples/${k.kind}.jpg`))),
          ]
        }"""
    )
    cards, others = (labelled(found, size) for found, size in zip(pictures, ((264, 168), (165, 126)), strict=True))
    rows = [in_rows(cards, 5), in_rows(others, 8)]
    wide = max(r.shape[1] for r in rows)
    rows = [cv2.copyMakeBorder(r, 0, 0, 0, wide - r.shape[1], cv2.BORDER_CONSTANT, value=(242,) * 3) for r in rows]
    cv2.imwrite(str(OUT / "cards.png"), np.vstack(rows))


def fitting(page: Page) -> None:
    """All finishes on one cutout, as the bench shows them."""
    pictures = page.evaluate(
        """async () => {
          const project = location.hash.slice(1)
          const view = await (await fetch(`/api/projects/${project}`)).json()
          const layer = Object.values(view.layers).find((l) => l.name === 'Leap 3').id
          const { finishes } = await (await fetch('/api/catalog')).json()
          const order = ['edge', 'tone', 'fill', 'drawing', 'light', 'lens', 'break-up', 'geometry']
          const known = finishes.filter((f) => f.on.includes('cutout'))
          known.sort((a, b) => order.indexOf(a.looks) - order.indexOf(b.looks))
          return Promise.all(known.map(async (f) => {
            const answer = await fetch(`/api/projects/${project}/fitting/${layer}/${f.kind}.jpg`)
            return [f.title, [...new Uint8Array(await answer.arrayBuffer())]]
          }))
        }"""
    )
    cv2.imwrite(str(OUT / "finishes.png"), in_rows(labelled(pictures, (220, 168)), 7))


def views(page: Page) -> None:
    """Every main view."""
    page.wait_for_selector("[data-project]")
    shoot(page, "projects")
    page.get_by_role("button", name=f"Open {NAME}", exact=True).click()
    choose(page, "Leap 2")
    to_frame(page, 73)
    page.keyboard.press("1")
    watched(page, 132)
    page.get_by_role("radio", name="Evenly").click()
    page.get_by_label("or how many", exact=True).fill("5")
    page.get_by_label("or how many", exact=True).press("Enter")
    page.locator("[data-testid=ghosts][data-settled=yes]").wait_for()
    shoot(page, "catch")
    page.get_by_role("radio", name="Found for you").click()
    to_frame(page, 180)
    watched(page, 90)
    page.locator("[data-testid=ghosts][data-settled=yes]").wait_for()
    shoot(page, "catch-found")
    to_frame(page, 73)
    page.keyboard.press("2")
    shoot(page, "carve")
    carry_and_plate(page)
    page.keyboard.press("3")
    choose(page, "Leap 2")
    page.get_by_role("button", name="Sweep", exact=True).click()
    page.get_by_role("button", name="across key at frame 58", exact=True).click(force=True)
    to_frame(page, 63)
    shoot(page, "fly")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    recipes(page)
    page.keyboard.press("3")
    choose(page, "Leap 1")
    choose(page, "Leap 3", modifiers=["Shift"])
    to_frame(page, 84)
    shoot(page, "sky")
    page.keyboard.press("1")
    page.locator('[data-item="Standstill of Reel out"]').click()
    to_frame(page, 280)
    page.get_by_role("radio", name="In the piece").click()
    page.get_by_role("radio", name="By hand").click()
    page.keyboard.press("y")
    shoot(page, "ground")
    page.keyboard.press("y")
    page.keyboard.press("Control+z")
    choose(page, "Leap 2")
    to_frame(page, 84)
    page.keyboard.press("4")
    page.get_by_role("button", name="Add a wash below it").click()
    page.get_by_text("Where it works").wait_for()
    put_on(page, "Tone", "Tone")
    page.get_by_label("Exposure", exact=True).fill("-1.1")
    page.keyboard.press("Enter")
    put_on(page, "Lens", "Directional blur")
    choose(page, "Leap 2")
    page.get_by_role("radio", name="Edge", exact=True).click()
    page.get_by_label("Second line", exact=True).fill("6")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Keep #", exact=False).first.click()
    shoot(page, "dress")
    fitting(page)
    contact(page)
    sounds(page)
    page.keyboard.press("6")
    page.get_by_role("button", name="Send", exact=True).last.click()
    page.get_by_role("button", name="Download").wait_for(timeout=240_000)
    page.wait_for_timeout(1500)
    shoot(page, "send")
    page.keyboard.press("?")
    shoot(page, "keys")
    page.keyboard.press("Escape")
    page.keyboard.press("4")
    lettering(page)


def recipes(page: Page) -> None:
    """What can be made, once the first of it is seen."""
    page.get_by_role("button", name="Make", exact=True).click()
    page.get_by_role("button", name="Trail", exact=True).click()
    page.wait_for_function("() => document.querySelectorAll('[data-loop=there]').length >= 8", timeout=180_000)
    shoot(page, "make")


def watched(page: Page, frames: int) -> None:
    """Waits until a shot of so many frames has been looked through."""
    page.locator(f'[data-testid=strip][data-known="{frames}"]').wait_for(timeout=120_000)


def carry_and_plate(page: Page) -> None:
    """A matte that travels, and its plate; undone again, so that the other views show the demo as it is."""
    page.get_by_role("button", name="Pick person").click()
    page.locator("[data-kind=person]").wait_for(timeout=60_000)
    page.get_by_role("button", name="Travel").click()
    page.get_by_role("button", name="Carry to").click()
    page.get_by_text("Carried to", exact=False).wait_for(timeout=180_000)
    strip = page.get_by_role("slider", name="Frame of the travelling matte")
    strip.focus()
    for _ in range(7):
        page.keyboard.press("ArrowLeft")
    shoot(page, "carry")
    page.get_by_role("button", name="From the shot").click()
    page.get_by_role("button", name="Mend").click(timeout=120_000)
    shoot(page, "plate")
    page.get_by_role("button", name="Points", exact=True).click()
    strip.focus()
    for _ in range(7):  # back to the held frame, where the pick shows among the pieces
        page.keyboard.press("ArrowRight")
    page.locator("[data-kind=person]").wait_for()
    while page.locator("[data-kind=person]").count():
        page.keyboard.press("Control+z")
        page.wait_for_timeout(600)


def main() -> None:
    """Starts the demo in a temporary folder and takes all pictures at 1280×800."""
    with tempfile.TemporaryDirectory() as folder:
        server = subprocess.Popen(
            [sys.executable, "-m", "nervykite.cli", "demo", "--data", folder, "--port", str(PORT)],
            stdout=subprocess.DEVNULL,
        )
        try:
            wait_for(f"http://127.0.0.1:{PORT}/")
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                page.goto(f"http://127.0.0.1:{PORT}/")
                views(page)
                browser.close()
        finally:
            server.terminate()
            server.wait()


if __name__ == "__main__":
    main()
    sheet()

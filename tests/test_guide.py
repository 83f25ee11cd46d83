"""The guide and the page: the keys and names that the one speaks of are those of the other."""

import re
from pathlib import Path

HOME = Path(__file__).parents[1]
TASKS = (HOME / "docs" / "TASKS.md").read_text()
GUIDE = (HOME / "docs" / "GUIDE.md").read_text() + TASKS
WRITTEN = {"←": "ArrowLeft", "→": "ArrowRight"}
FILLED = re.compile(r"…|\.\.\.|\d")
"""What stands for something else in a name."""


def keys() -> set[str]:
    """All presses of the page's table of keys."""
    table = (HOME / "web" / "src" / "parts" / "keys.ts").read_text()
    table = table[table.index("export const KEYS") : table.index("satisfies")]
    pressed = {press for row in re.findall(r"press: \[([^\]]*)\]", table) for press in re.findall(r"'([^']+)'", row)}
    by_words = re.findall(r"(?:carve|tools|marks|looks)\((\[[^\]]*\]|'[^']+')", table)
    return pressed | {press for row in by_words for press in re.findall(r"'([^']+)'", row)}


def words() -> str:
    """All that the page and the program say, in one line."""
    page = [p for p in (HOME / "web" / "src").rglob("*.ts*") if p.name != "schema.d.ts"]
    return re.sub(r"\s+", " ", " ".join(p.read_text() for p in [*page, *(HOME / "nervykite").rglob("*.py")])).lower()


def test_keys_of_the_guide_are_keys_of_the_page():
    known = keys()
    assert {"F", "J", "Space", "?", "0"} <= known
    named = set(re.findall(r"`([^`\n]|\w+\+\S)`", GUIDE)) - {"[", "]"}  # those are the brush's, see MarkBrush
    assert len(named) > 20
    assert {WRITTEN.get(n, n) for n in named} - known == set()


def test_names_in_the_guide_are_on_the_page():
    said = words()
    named = set(re.findall(r"(?<!\*)\*([A-Z“][^*\n]{1,60})\*(?!\*)", GUIDE))
    assert len(named) > 60
    parts = {p.strip().lower() for name in named for p in name.split("→")}
    # A choice is shown by its word, with a space for its hyphen.
    assert {p for p in parts if p not in said and p.replace(" ", "-") not in said} == set()


def test_every_picture_is_shown_in_the_readme():
    readme = (HOME / "README.md").read_text()
    pictures = sorted((HOME / "docs" / "screenshots").glob("*.png"))
    assert 5 < len(pictures) < 20
    assert [p.name for p in pictures if f"docs/screenshots/{p.name}" not in readme] == []


def test_every_measurement_is_named_in_the_readme():
    from tools.bench import NAMES

    line = next(x for x in (HOME / "README.md").read_text().splitlines() if x.strip().startswith("nervykite bench"))
    assert set(re.split(r"[\s|]+", line.split("bench", 1)[1])) >= set(NAMES)


def test_a_task_is_read_in_a_minute():
    tasks = re.split(r"^## ", TASKS, flags=re.MULTILINE)[1:]
    assert len(tasks) >= 12
    assert all(len(task.split()) < 120 for task in tasks)


def test_what_is_pressed_in_a_task_is_on_the_page():
    said = words()
    pressed = set(re.findall(r"\*\*([A-Z][^*\n]{1,40})\*\*", TASKS))
    assert len(pressed) > 25
    assert {name for name in pressed if name.lower().split(" … ")[0] not in said} == set()

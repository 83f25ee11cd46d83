"""Pages beside the code: each package has one, they are short, and what they point at is there."""

import re
from pathlib import Path

HOME = Path(__file__).parents[1]
PACKAGES = (
    "core/common", "core/piece/model", "core/piece/timeline", "core/piece/motion", "core/see/footage", "core/see/matte",
    "core/see/scene", "core/see/find", "core/see/carry", "core/see/catch", "core/craft", "core/kinds",
    "core/draw/picture", "core/draw/sound", "core/draw/send", "core/change", "core/tell", "store", "studio", "server",
)  # fmt: skip
PAGES = [
    *(HOME / "nervykite" / package / "README.md" for package in PACKAGES),
    HOME / "web/src/README.md", HOME / "tools/README.md", HOME / "docs/ARCHITECTURE.md",
]  # fmt: skip


def test_they_are_read_in_half_an_hour():
    assert sum(len(page.read_text().split()) for page in PAGES) < 5000


def test_no_paragraph_is_over_eight_lines():
    for page in PAGES:
        for paragraph in page.read_text().split("\n\n"):
            rows = [line for line in paragraph.splitlines() if not line.startswith(("|", "    "))]
            points = re.split(r"^- ", "\n".join(rows), flags=re.MULTILINE)
            assert all(len(point.splitlines()) <= 8 for point in points), f"{page}: {paragraph[:60]}"


def test_what_they_point_at_is_there():
    for page in [*PAGES, HOME / "README.md", HOME / "CONTRIBUTING.md", *(HOME / "docs").glob("*.md")]:
        for target in re.findall(r"\]\(([^)#\s]+)", page.read_text()):
            assert target.startswith("http") or (page.parent / target).exists(), f"{page} points at {target}"


def test_files_that_they_name_are_beside_them_or_in_the_program():
    there = [p.relative_to(HOME).as_posix() for f in ("nervykite", "web", "tools", "tests") for p in files(HOME / f)]
    for page in PAGES:
        for name in re.findall(r"`([\w./-]+\.(?:py|tsx?|cjs))`", page.read_text()):
            assert any(f"/{path}".endswith(f"/{name}") for path in there), f"{page} names {name}"


def files(folder: Path) -> list[Path]:
    """The files of a folder, without what is installed there."""
    return [p for p in folder.rglob("*.*") if "node_modules" not in p.parts]

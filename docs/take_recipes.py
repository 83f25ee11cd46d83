"""Writes what the guide says of recipes: `RECIPES.md` with a strip of each, and a contact sheet of all on two clips.

    python docs/take_recipes.py

Everything is made from the demo's footage by the same calls as on the page, so it takes some minutes.
"""

from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np

from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.piece.model import Document, Recipe
from nervykite.core.piece.model.kinds import by_rank, name_of
from nervykite.core.see.catch.sheet import Sheet, contact_sheet
from nervykite.core.see.footage.planes import to_bgr
from nervykite.demo.demo_project import FOOTAGE
from nervykite.studio import Studio
from nervykite.studio.cooking import cook, project_for

DOCS = Path(__file__).parent
CLIPS = ((("dune-run", "change-over", "reel-out"), 1), (("kite-catch", "splash-down"), 0))
"""What they are made of, and which of these is the first take where two are needed; else it is the first of all."""
SHOWN = 6
WIDE, HIGH = 180, 320
INTRO = """# The recipes

What each of our recipes makes, when to take it, how to film for it, and what usually goes wrong. On the page they are
under **Make** (see the [guide](GUIDE.md#make-it-in-a-minute)), each as a loop of your own footage; on the command line
`nervykite make NAME CLIP … --out FILE`.

For all of them: more light than you think; a short exposure (1/500 s or less), so that what is held is crisp; 60 frames
a second where the camera has them, which gives twice as many frames to choose from; the whole subject in the picture at
the moment that counts, and clothes that are not of the background's colours.

![All recipes on two clips](screenshots/recipes.png)
"""


def strip(studio: Studio, document: Document, shown: int, size: tuple[int, int]) -> np.ndarray:
    """Frames of what a recipe made, from shortly before it begins to its end, side by side: uint8 B'G'R' (h, w, 3)."""
    evaluation = Evaluation(document)
    spans = [s for id_ in document.project.made[-1].layers if (s := evaluation.timeline.spans.get(id_)) is not None]
    first = max(0, min(s.start for s in spans) - 4)
    last = min(evaluation.length, max(s.end for s in spans) + 4) - 1
    frames = np.linspace(first, last, shown).round().astype(int)
    pictures = [to_bgr(studio.renderer.render(Canvas(document, size), evaluation.at(int(f)))) for f in frames]
    return np.hstack(pictures)


def settings_of(kind: type[Recipe]) -> str:
    """Its controls, in words."""
    properties = kind.settings_schema()["properties"]
    return ", ".join(f"*{p.get('title', name)}* (`{name}`)" for name, p in properties.items())


def page(kind: type[Recipe]) -> str:
    """What RECIPES.md says of a recipe."""
    takes = " It needs two takes, one after the other." if kind.takes > 1 else ""
    return f"""
## {kind.title}

`{name_of(kind)}`: {kind.hint[0].lower()}{kind.hint[1:]}.{takes}

![{kind.title}](recipes/{name_of(kind)}.jpg)

- **When:** {kind.when}
- **Film it so:** {kind.film}
- **Often goes wrong:** {kind.missed}
- **Controls:** {settings_of(kind)}.
"""


def main() -> None:
    """Makes them all."""
    kinds = [kind for kind in by_rank(Recipe.family) if kind.listed]
    (DOCS / "recipes").mkdir(exist_ok=True)
    rows: dict[str, list[np.ndarray]] = {name_of(k): [] for k in kinds}
    with TemporaryDirectory(prefix="nervykite-") as folder:
        studio = Studio(Path(folder))
        for n, (clips, at) in enumerate(CLIPS):
            project = project_for(studio, f"Recipes {n}", [FOOTAGE / f"{clip}.mp4" for clip in clips])
            items = [g.id for g in studio.state(project).document.project.ground]
            for kind in kinds:
                made = studio.state(project).document.project.made
                words = {"name": "Juno Abara"} if kind.words else {}
                of = items[:1] if kind.takes == 1 else items[at : at + 2]
                cook(studio, project, kind(**words), of, made[-1].id if made else None)
                document = studio.state(project).document
                rows[name_of(kind)].append(strip(studio, document, 5, (72, 128)))
                # Each is shown with the clip that it was thought of for.
                if n == int(kind.takes > 1):
                    shown = strip(studio, document, SHOWN, (WIDE, HIGH))
                    cv2.imwrite(str(DOCS / f"recipes/{name_of(kind)}.jpg"), shown, [cv2.IMWRITE_JPEG_QUALITY, 82])
        studio.close()
    between = np.full((128, 8, 3), Sheet().paper[::-1], np.uint8)
    both = [np.hstack([left, between, right])[..., ::-1] for left, right in rows.values()]
    sheet = contact_sheet(both, [k.title for k in kinds], "Every recipe on two clips", Sheet(wide=1520, line=28))
    cv2.imwrite(str(DOCS / "screenshots/recipes.png"), sheet[..., ::-1], [cv2.IMWRITE_PNG_COMPRESSION, 9])
    (DOCS / "RECIPES.md").write_text(INTRO + "".join(page(kind) for kind in kinds))


if __name__ == "__main__":
    main()

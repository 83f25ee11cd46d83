"""From footage to a piece by a recipe: looked through, caught, cut out, made. Stopped early it leaves what it has."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from pydantic import ValidationError

from ..core.change.edits import PutRecipe, SetPlate, SetTravel
from ..core.change.edits.base import hold_shown
from ..core.change.edits.putting_recipes import flagged, held_at, without_made
from ..core.change.recipes.own_recipe import OwnRecipe
from ..core.common.errors import Refusal
from ..core.craft.finishing.swatches import swatches
from ..core.piece.model import Caught, Document, GroundItem, Hold, Recipe
from ..core.piece.model.kinds import fault
from ..core.piece.timeline.beats import beats_of
from ..core.piece.timeline.timeline import Timeline
from ..core.see.catch import cadence
from ..core.see.catch.seen import Seen
from ..core.see.catch.take import Take
from .carrying import through
from .catching import CarveAllRequest, ChosenFrame, hold_and_carve
from .importing import import_file
from .plates import PlateRequest, make
from .recipe_files import read, unpack
from .studio import Studio
from .watching import ShotObservations, takes, watch_shot

Step = Callable[[str, float], None]
"""Is told what is being done, and how much of all is done, 0…1; may raise Cancelled."""
LOOKED, CUT = 0.25, 0.97
"""How much of the progress is over once all is looked through, and once all is cut out."""

EDGE = 0.012
"""So near to the picture's edge, in shares of its height, what is seen is cut off by it."""


@dataclass(frozen=True)
class Cooked:
    """The outcome: the id of what was made, and the layers whose mattes are doubtful, the most first."""

    made: str
    doubtful: list[str]


@dataclass(frozen=True)
class _Part:
    """A part of the work: tells how much of it is done as a share of all."""

    step: Step
    says: str
    first: float
    past: float

    def __call__(self, share: float) -> None:
        self.step(self.says, self.first + (self.past - self.first) * min(1.0, share))


def cook(
    studio: Studio,
    project: str,
    recipe: Recipe,
    items: list[str] | None = None,
    instead: str | None = None,
    layers: Sequence[str] = (),
    step: Step = lambda says, share: None,
    changed: Callable[[], None] = lambda: None,
) -> Cooked:
    """Makes what a recipe makes of a project's footage.

    items: the pieces of the ground that it takes, in order; None for those that there are; instead: what an earlier
    recipe made, which goes; layers: cutouts whose frames it is made from, in place of those that it would choose
    itself. Raises Refusal: what was done until then stays.
    """
    # What the earlier recipe had stand still is no footage, and what it parted for that belongs together.
    known = flagged(studio.state(project).document)
    document = _without(studio.state(project).document, instead)
    chosen = _chosen(studio.state(project).document, document, layers)
    ground = [] if chosen else footage_for(document, recipe, items)
    for n, item in enumerate(ground):
        shot = document.shots[item.source.footage(document) or ""]
        part = _Part(step, f"Looks through {shot.name}", LOOKED * n / len(ground), LOOKED * (n + 1) / len(ground))
        part(0)
        watch_shot(studio, shot, lambda past, part=part, frames=shot.frames: part(past / frames))  # type: ignore[misc]
    document = _without(studio.state(project).document, instead)
    caught = chosen or caught_by(studio, document, recipe, ground)
    cut = LOOKED + (CUT - LOOKED) / 2 if recipe.emptied else CUT
    doubtful = _cut_out(studio, project, document, caught, step, changed, cut) if recipe.cuts else []
    if recipe.emptied:
        _empty(studio, project, document, caught[0], recipe.emptied, step, changed, cut)
    step(f"Makes “{recipe.called}”", CUT)
    palette = _clothes(studio, project, document, caught) if recipe.dressed_in_clothes else None
    fresh = sorted(flagged(studio.state(project).document) - known)
    put = PutRecipe(recipe=recipe, caught=caught, instead=instead, palette=palette, found=not chosen, flags=fresh)
    studio.edit(project, put, None)
    changed()
    return Cooked(put.made, doubtful)


def caught_by(studio: Studio, document: Document, recipe: Recipe, ground: list[GroundItem]) -> list[Caught]:
    """The frames that a recipe is made from. Raises Refusal."""
    timeline, looks = Timeline(document), ShotObservations(studio)
    seen = [take_of(looks, document, timeline, item) for item in ground]
    caught = [Caught(item=ground[which].id, frame=frame) for which, frame in recipe.catch(seen)]
    if not caught:
        raise Refusal(f"Nothing was found that “{recipe.called}” could be made from. Choose frames yourself, at Catch.")
    return caught


def take_of(looks: ShotObservations, document: Document, timeline: Timeline, item: GroundItem) -> Take:
    """A piece of the ground as recipes look at it."""
    shot = document.shots[item.source.footage(document) or ""]
    table, start = timeline.tables[item.id], timeline.starts[item.id]
    shown = sorted({int(f) for f in table})
    seen = looks.seen(shot)
    way = np.concatenate([cadence.travelled(seen[t.start : t.stop]) for t in takes(shot)])
    there = np.concatenate([c.there for c in looks.curves(shot)]) & _seen_itself(seen)
    right = shot.width / shot.height - EDGE
    cut = frozenset(n for n, s in enumerate(seen) if s.share and (s.box[0] < EDGE or s.box[2] > right))
    played = (round(b.frame) - start for b in beats_of(timeline))
    beats = sorted({int(table[n]) for n in played if 0 <= n < len(table)})
    return Take(shown, float(shot.rate), looks.proposals(shot, frozenset(shown)), there, way, cut, beats)


def _seen_itself(seen: Sequence[Seen]) -> np.ndarray:
    """The frames in which something is seen, and not only before and after them: as people, or as what moves, unless
    that is little. Bool (n,).
    """
    shares = np.array([s.share for s in seen])
    people = np.array([bool(s.figures) for s in seen], bool)
    moves = shares[shares > 0]
    return people | (shares > (np.quantile(moves, 0.9) / 6 if len(moves) else 0.0))


def _without(document: Document, made: str | None) -> Document:
    return document if made is None else without_made(document, made)


def footage_for(document: Document, recipe: Recipe, items: list[str] | None = None) -> list[GroundItem]:
    """The pieces of the ground that a recipe takes. Raises Refusal if there are not enough."""
    footage = [g for g in document.project.ground if g.source.footage(document) is not None]
    if items is not None:
        known = {g.id: g for g in footage}
        footage = [known[i] for i in items if i in known]
    if not footage:
        raise Refusal("There is no footage yet to make anything of. Import a video first.")
    if len(footage) < recipe.needs:
        raise Refusal(f"{recipe.called} needs {recipe.needs} takes, one after the other. Import one more.")
    return footage[: recipe.needs]


def _cut_out(
    studio: Studio,
    project: str,
    document: Document,
    caught: list[Caught],
    step: Step,
    changed: Callable[[], None],
    until: float,
) -> list[str]:
    """Holds what was caught and cuts the subject out, as the ground lies now. Gives the layers that it doubts."""
    shots = {c.item: (document.item(c.item) or _gone()).source.footage(document) for c in caught}
    now = studio.state(project).document
    timeline = Timeline(now)
    shown: dict[str, list[int]] = {}
    for one in caught:
        # What an earlier recipe parted may show it elsewhere until that goes.
        shown.setdefault(_showing(timeline, shots[one.item], one.frame).id, []).append(one.frame)
    doubtful: list[str] = []
    each = (until - LOOKED) / max(1, len(shown))
    for n, (item, frames) in enumerate(shown.items()):
        says = f"Cuts out of {len(frames)} frames" if len(frames) > 1 else "Cuts out of its frame"
        part = _Part(step, says, LOOKED + each * n, LOOKED + each * (n + 1))
        part(0)
        request = CarveAllRequest(item=item, frames=[ChosenFrame(frame=f) for f in frames])
        doubtful.extend(hold_and_carve(studio, project, request, part, changed)["doubtful"])  # type: ignore[arg-type]
    return doubtful


def _chosen(now: Document, document: Document, layers: Sequence[str]) -> list[Caught]:
    """The frames of cutouts that somebody chose, in the ground as it is without what an earlier recipe made."""
    found = []
    timeline = Timeline(document)
    for layer in now.project.layers:
        hold = now.holds.get(hold_shown(layer) or "") if layer.id in set(layers) else None
        if hold is None:
            continue
        at = hold.frame
        one = Caught(item=_showing(timeline, hold.shot, at).id, frame=at)
        if one not in found:
            found.append(one)
    if layers and not found:
        raise Refusal("None of what is chosen is a cutout of the footage. Choose some, or let the moments be found.")
    return found


def _showing(timeline: Timeline, shot: str | None, frame: int) -> GroundItem:
    """The piece of the ground that shows a source frame. Raises Refusal if none does."""
    document = timeline.document
    items = [g for g in document.project.ground if g.source.footage(document) == shot]
    return next((g for g in items if frame in timeline.tables[g.id]), None) or _gone()


def _hold(document: Document, shot: str, frame: int) -> Hold:
    """The hold of a frame, one with a matte if there is one. Raises Refusal."""
    found = held_at(document, shot, frame)
    if found is None:
        raise Refusal("The frame that was caught is no longer held. Make it anew.")
    return found


def _empty(
    studio: Studio,
    project: str,
    document: Document,
    caught: Caught,
    seconds: float,
    step: Step,
    changed: Callable[[], None],
    since: float,
) -> None:
    """Has the matte of a frame travel for so many seconds, and builds the plate behind it, where these are missing."""
    shot = document.shots[(document.item(caught.item) or _gone()).source.footage(document) or ""]
    hold = _hold(studio.state(project).document, shot.id, caught.frame)
    at = caught.frame
    past = min(shot.take(at).stop, at + 1 + max(1, round(seconds * float(shot.rate))))
    first = at if hold.travel is None else min(at, hold.travel.first)
    if hold.travel is None or hold.travel.past < past:
        studio.edit(project, SetTravel(hold=hold.id, range=(first, past)), None)
    middle = since + (CUT - since) / 2
    if past - at > 1:
        through(studio, project, hold.id, [], _Part(step, "Follows the subject", since, middle), changed)
    if hold.plate is None:
        part = _Part(step, "Builds the scene behind", middle, CUT)
        made = make(studio, shot, hold, PlateRequest(source="shot"), part)
        studio.edit(project, SetPlate(hold=hold.id, plate=made.plate), None)
        changed()


def _clothes(studio: Studio, project: str, document: Document, caught: list[Caught]) -> list[str] | None:
    """The colours of what the subject of the first frame wears; None if nobody is cut out of it."""
    shot = document.shots[(document.item(caught[0].item) or _gone()).source.footage(document) or ""]
    at = caught[0].frame
    matte = _hold(studio.state(project).document, shot.id, at).matte
    if not matte.carved:
        return None
    picture = studio.film(shot).picture(at).astype(np.float32) / 255
    alpha = studio.renderer.sprites.mattes.alpha(shot, at, matte)[..., None]
    small = cv2.resize(np.concatenate([picture * alpha, alpha], 2), None, fx=0.3, fy=0.3, interpolation=cv2.INTER_AREA)
    return swatches(small) or None


def _gone() -> GroundItem:
    raise Refusal("That piece of footage is no longer in the ground. Choose another.")


def recipe_of(kind: str, settings: Sequence[str] = ()) -> Recipe:
    """A recipe by its name, with settings as “key=value”. Raises Refusal, with a sentence."""
    known = {k: made for k, made in Recipe.family.all().items() if made.listed}
    if kind not in known:
        raise Refusal(f"There is no recipe “{kind}”. There are: {', '.join(sorted(known))}.")
    given: dict[str, str] = {}
    for one in settings:
        key, found, value = one.partition("=")
        if not found:
            raise Refusal(f"“{one}” is no setting. Write KEY=VALUE, such as lasts=2.")
        if key.strip() not in known[kind].model_fields or key.strip() == "kind":
            names = ", ".join(n for n in known[kind].model_fields if n != "kind")
            raise Refusal(f"“{known[kind].title}” has no “{key.strip()}”. It has: {names}.")
        given[key.strip()] = value.strip()
    try:
        return Recipe.family.parse({"kind": kind, **given})
    except ValueError as error:
        raise Refusal(f"That is no setting of “{known[kind].title}”: {error}.") from error


def own_recipe(studio: Studio, file: str, name: str, settings: Mapping[str, Any]) -> OwnRecipe:
    """A recipe that somebody saved, by the hash of its file, under a name. Raises Refusal."""
    what = unpack(studio, file, name).model_copy(update={"name": name})
    try:
        return OwnRecipe.model_validate({**settings, "kind": "own", "what": what.model_dump(mode="json")})
    except ValidationError as error:
        raise Refusal(f"That is no setting of “{name}”: {fault(error)}.") from error


def recipe_from(studio: Studio, path: Path, settings: Sequence[str] = ()) -> OwnRecipe:
    """A recipe from its file, with settings as “key=value”: spacing, length, or one of the words it asks for by the
    name of these. Raises Refusal, with a sentence.
    """
    if not path.is_file():
        raise Refusal(f"There is no file {path}. Check its name.")
    file = studio.keep_file(path)
    what = read(studio, file, path.name)
    texts, given = [a.words for a in what.asks], {}
    titles = [a.title.lower() for a in what.asks]
    for one in settings:
        key, _, value = one.partition("=")
        if key.strip().lower() in titles:
            texts[titles.index(key.strip().lower())] = value.strip()
        elif key.strip() in ("spacing", "length"):
            given[key.strip()] = value.strip()
        else:
            names = ", ".join(["spacing", "length", *(a.title for a in what.asks)])
            raise Refusal(f"“{what.name}” has no “{key.strip()}”. It has: {names}.")
    return own_recipe(studio, file, what.name, {**given, "texts": texts})


def project_for(studio: Studio, name: str, sources: Sequence[Path]) -> str:
    """The project of a name, or a new one, with files added to it; gives its id. Raises Refusal."""
    known = [e.id for e in studio.projects.list() if e.name == name]
    project = known[0] if known else studio.projects.new(name).document.project.id
    for source in sources:
        if not source.is_file():
            raise Refusal(f"There is no file {source}. Check its name.")
        import_file(studio, project, studio.keep_file(source), source.name)
    return project

"""The shots that can be filmed on the set, by name."""

from .dunes import ChangeOver, DuneRun, Dusk60, EmptyShore, KiteCatch, PhoneUpright, ReelOut
from .filming import Shot, Take
from .groyne import GroynePan
from .hut import HutWindow1, HutWindow2
from .shallows import SplashDown

SHOTS: dict[str, type[Shot]] = {
    shot.name: shot
    for shot in (
        DuneRun, GroynePan, ReelOut, KiteCatch, SplashDown, ChangeOver, EmptyShore, HutWindow1, HutWindow2, Dusk60,
        PhoneUpright,
    )
}  # fmt: skip

__all__ = ["SHOTS", "Shot", "Take"]

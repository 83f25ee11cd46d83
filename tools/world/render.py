"""Films the demo shots and packs them: `python -m tools.world.render all --frames DIR`.

Frames are written one by one, so that an interrupted run goes on where it was; the same versions of the code
give the same frames. Two shots are filmed side by side, at low priority. Each ends as `SHOT.mp4` with its sound
and, beside it, the truth about it: `truth/SHOT-alpha.mp4` (the subject's alpha as grey; with several figures also
one file each) and `truth/SHOT.json` (cameras, holds, joints). `--clean` films the empty place as well:
`truth/SHOT-clean.mp4`. `all` makes the badges and the music too.
"""

import argparse
import json
import os
import subprocess
import sys
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import cv2
import numpy as np

from nervykite.demo import FOOTAGE

from .badges import write_badges
from .film import as_bytes, ground_homography
from .music import bed
from .packing import write_clip, write_phone_clip, write_sound
from .peaks import apexes, blurs
from .shots import SHOTS, Take
from .sound import soundtrack

CRF = {"dusk-60": 24, "phone-upright": 20}
"""Where the usual quality, 18, would make too large a file."""


def film(name: str, frames: Path, clean: bool) -> None:
    """Films every frame of a shot that is not in `frames` yet, as 16-bit PNG: picture, clean, alpha."""
    frames.mkdir(parents=True, exist_ok=True)
    shot = None
    for number in range(SHOTS[name].frames):
        last = frames / f"{number:04}-{'clean' if clean else 'alpha'}.png"
        if last.exists():
            continue
        shot = shot or SHOTS[name]()
        take = shot.take(number, clean)
        for kind, picture in _named(take):
            part = frames / "part.png"
            cv2.imwrite(str(part), np.round(picture * 65535).astype(np.uint16))
            part.rename(frames / f"{number:04}-{kind}.png")
        print(f"{name}: frame {number + 1} of {shot.frames}", flush=True)


def _named(take: Take) -> Iterator[tuple[str, np.ndarray]]:
    yield "picture", take.picture[..., ::-1]
    if take.alpha.shape[2] > 1:
        for k in range(take.alpha.shape[2]):
            yield f"alpha{k + 1}", take.alpha[..., k]
    yield "alpha", take.alpha.sum(-1)
    if take.clean is not None:
        yield "clean", take.clean[..., ::-1]


def _pictures(frames: Path, kind: str) -> Iterator[np.ndarray]:
    """The frames of a kind in order, RGB uint16."""
    for path in sorted(frames.glob(f"*-{kind}.png")):
        yield cv2.imread(str(path), cv2.IMREAD_ANYDEPTH | cv2.IMREAD_COLOR)[..., ::-1]


def _as_bytes(pictures: Iterator[np.ndarray]) -> Iterator[np.ndarray]:
    return (as_bytes(picture.astype(np.float32) / 65535) for picture in pictures)


def pack(name: str, frames: Path, out: Path) -> None:
    """Packs a filmed shot: the clip with its sound, and the truth."""
    shot, truth = SHOTS[name], out / "truth"
    truth.mkdir(parents=True, exist_ok=True)
    write = write_phone_clip if shot.phone else write_clip
    pictures = _pictures(frames, "picture")
    write(
        out / f"{name}.mp4",
        pictures if shot.phone else _as_bytes(pictures),
        shot.rate,
        CRF.get(name, 18),
        soundtrack(name),
    )
    if shot.cast:
        alphas = ["alpha"] + [f"alpha{k + 1}" for k in range(shot.cast) if shot.cast > 1]
        for kind in alphas:
            write_clip(truth / f"{name}-{kind}.mp4", _as_bytes(_pictures(frames, kind)), shot.rate, 8)
    if any(frames.glob("*-clean.png")):
        write_clip(truth / f"{name}-clean.mp4", _as_bytes(_pictures(frames, "clean")), shot.rate, 18)
    (truth / f"{name}.json").write_text(json.dumps(known(name), indent=1) + "\n")


def known(name: str) -> dict:
    """The truth about a shot but for its pictures.

    cameras: for each frame position, forward, right, up (metres) and the tangent of half the vertical field;
    ground: for each frame of a moving camera the homography (9 numbers, rows first) of the sand's mean level
    from frame 0's pixels to its own; holds: frames that make good holds, with the joints' places in pixels; apexes:
    frames where the movement peaks, and of what; blur: for each frame how far joints go in a frame, in pixels.
    """
    shot = SHOTS[name]
    cameras = [shot.camera_at(frame) for frame in range(shot.frames)]
    joints = [shot.joints(frame) for frame in range(shot.frames)]
    facts = {
        "shot": shot.name, "title": shot.title, "rate": shot.rate, "frames": shot.frames,
        "cameras": [c.round(6).tolist() for c in cameras],
        "holds": [
            {"frame": frame, "name": called, "joints": joints[frame]} for frame, called in shot.holds.items()
        ],
        "apexes": apexes(joints, (720, 1280)), "blur": blurs(joints, (720, 1280)),
    }  # fmt: skip
    if not shot.locked:
        facts["ground"] = [ground_homography(cameras[0], c, 720, 1280).round(9).ravel().tolist() for c in cameras]
    return facts


def main() -> None:
    """Reads the command line, films and packs."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument(
        "shots", nargs="+", choices=[*SHOTS, "all"], metavar="SHOT", help=f"all, or of {', '.join(SHOTS)}"
    )
    parser.add_argument("--frames", type=Path, required=True, help="folder for the single frames")
    parser.add_argument("--out", type=Path, default=FOOTAGE)
    parser.add_argument("--clean", action="store_true", help="the empty place too")
    parser.add_argument("--pack-only", action="store_true", help="only pack what is filmed")
    options = parser.parse_args()
    names = list(SHOTS) if "all" in options.shots else options.shots
    if len(names) == 1:
        if not options.pack_only:
            cv2.setNumThreads(1)
            film(names[0], options.frames / names[0], options.clean)
        pack(names[0], options.frames / names[0], options.out)
        return
    # A process and a core for each shot: a picture has too many short serial parts for two cores.
    settings = os.environ | {"NUMBA_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
    rest = [f"--frames={options.frames}", f"--out={options.out}"]
    rest += ["--clean"] * options.clean + ["--pack-only"] * options.pack_only

    def one(name: str) -> None:
        command = ["nice", "-n", "19", sys.executable, "-m", "tools.world.render", name, *rest]
        subprocess.run(command, env=settings, check=True)

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(one, names))
    if "all" in options.shots:
        write_badges(options.out / "badges")
        write_sound(options.out / "relay-tune.ogg", bed(), "libopus", 128_000)


if __name__ == "__main__":
    main()

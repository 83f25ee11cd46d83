"""Films the demo shots and packs them: `python -m nervykite.demo.render SHOT --frames DIR [--out DIR]`.

Frames are written one by one, so an interrupted run goes on where it was. The same command on the same
versions gives the same frames. Ends with the encoded clip, its sound, and the truth beside it:
`SHOT.mp4`, `truth/SHOT-alpha.mp4` (the subject's alpha as grey), `truth/SHOT-clean.mp4` (nobody there) and
`truth/SHOT.json` (the camera of each frame).
"""

import argparse
import json
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from .world.shots import SHOTS
from .world.sound import RATE, soundtrack


def film(shot_name: str, frames: Path) -> None:
    """Films every frame of the shot that is not in `frames` yet, as PNG: picture, clean, alpha."""
    frames.mkdir(parents=True, exist_ok=True)
    shot = None
    for frame in range(SHOTS[shot_name].frames):
        marker = frames / f"{frame:04}-alpha.png"
        if marker.exists():
            continue
        shot = shot or SHOTS[shot_name]()
        take = shot.take(frame)
        cv2.imwrite(str(frames / f"{frame:04}-picture.png"), take.picture[..., ::-1])
        cv2.imwrite(str(frames / f"{frame:04}-clean.png"), take.clean[..., ::-1])
        partial = marker.with_name("partial.png")
        cv2.imwrite(str(partial), np.round(take.alpha * 255).astype(np.uint8))
        partial.rename(marker)
        print(f"{shot_name}: frame {frame + 1} of {shot.frames}", flush=True)


def _pictures(frames: Path, kind: str) -> Iterator[np.ndarray]:
    for path in sorted(frames.glob(f"*-{kind}.png")):
        yield cv2.imread(str(path))[..., ::-1]


def encode(path: Path, pictures: Iterator[np.ndarray], rate: int, crf: int, sound: np.ndarray | None = None) -> None:
    """Writes an H.264 MP4 (tagged BT.709, limited range) of RGB pictures and, if given, stereo sound."""
    with av.open(str(path), "w") as out:
        video = audio = None
        if sound is not None:
            audio = out.add_stream("aac", rate=RATE, layout="stereo")
            audio.bit_rate = 96000
        for picture in pictures:
            if video is None:
                video = out.add_stream("libx264", rate=rate, options={"crf": str(crf), "preset": "slow"})
                video.height, video.width = picture.shape[:2]
                video.pix_fmt = "yuv420p"
                video.codec_context.time_base = Fraction(1, rate)
                video.codec_context.color_range = 1
                video.codec_context.colorspace = 1
                video.codec_context.color_primaries = 1
                video.codec_context.color_trc = 1
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="rgb24")
            out.mux(video.encode(frame.reformat(format="yuv420p", dst_colorspace="ITU709", dst_color_range="MPEG")))
        out.mux(video.encode())
        if audio is not None:
            packed = np.ascontiguousarray(sound.astype(np.float32))
            for start in range(0, packed.shape[1], 1024):
                block = av.AudioFrame.from_ndarray(
                    np.ascontiguousarray(packed[:, start : start + 1024]), format="fltp", layout="stereo"
                )
                block.rate, block.pts, block.time_base = RATE, start, Fraction(1, RATE)
                out.mux(audio.encode(block))
            out.mux(audio.encode())


def main() -> None:
    """Reads the command line, films and packs one shot."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("shot", choices=SHOTS)
    parser.add_argument("--frames", type=Path, required=True, help="folder for the single frames")
    parser.add_argument("--out", type=Path, default=Path(__file__).parent / "footage")
    options = parser.parse_args()
    film(options.shot, options.frames)
    truth = options.out / "truth"
    truth.mkdir(parents=True, exist_ok=True)
    shot = SHOTS[options.shot]
    sound = soundtrack(options.shot)
    encode(options.out / f"{options.shot}.mp4", _pictures(options.frames, "picture"), shot.rate, 17, sound)
    encode(truth / f"{options.shot}-alpha.mp4", _pictures(options.frames, "alpha"), shot.rate, 8)
    encode(truth / f"{options.shot}-clean.mp4", _pictures(options.frames, "clean"), shot.rate, 18)
    (truth / f"{options.shot}.json").write_text(json.dumps(camera_truth(options.shot), indent=1) + "\n")


def camera_truth(shot_name: str) -> dict:
    """Where the camera is in each frame: position, forward, right, up (metres), tangent of half the vertical field."""
    shot = SHOTS[shot_name]
    cameras = [shot.camera_at(frame).round(6).tolist() for frame in range(shot.frames)]
    return {"shot": shot.name, "title": shot.title, "rate": shot.rate, "frames": shot.frames, "cameras": cameras}


if __name__ == "__main__":
    main()

"""Cutting and plates on the command line, without a project."""

import json

import cv2
import numpy as np
import pytest

from nervykite.cli import main

from .core.scenes import BY_COLOUR, by_colour, overlap, passing, picture, texture
from .media import make_video

KEEP = [[[90, 90], [90, 150]], [[92, 66], [96, 76]], [[75, 165], [66, 185]], [[106, 165], [114, 182]]]
DROP = [[[15, 20], [15, 225]], [[165, 20], [165, 225]], [[30, 15], [150, 15]]]


@pytest.fixture
def still(tmp_path):
    """A picture file, its alpha, and a marks file for it."""
    frame, alpha = picture()
    cv2.imwrite(str(tmp_path / "still.png"), frame[..., ::-1])
    lines = {k: [{"points": p, "width": 6} for p in v] for k, v in (("keep", KEEP), ("drop", DROP))}
    (tmp_path / "marks.json").write_text(json.dumps(lines))
    return tmp_path, alpha


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    """A video of a subject that passes, its alphas, and the scenes alone."""
    frames, alphas, scenes = passing(24)
    path = make_video(
        tmp_path_factory.mktemp("clip") / "passing.mp4", 24, (120, 160), picture=lambda n, *_: frames[n],
        options={"crf": "12"},
    )  # fmt: skip
    return path, alphas, scenes


def matte_of(path):
    matte = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    assert matte.ndim == 2
    return matte.astype(np.float32) / np.iinfo(matte.dtype).max


def test_marks_on_a_picture(still):
    folder, alpha = still
    done = main([
        "cut", str(folder / "still.png"), "--marks", str(folder / "marks.json"), "--matte", str(folder / "m.png"),
        "--out", str(folder / "c.png"), "--json", str(folder / "f.json"),
    ])  # fmt: skip
    assert done == 0
    matte = matte_of(folder / "m.png")
    assert matte.shape == alpha.shape
    assert overlap(matte, alpha) > 0.95
    cutout = cv2.imread(str(folder / "c.png"), cv2.IMREAD_UNCHANGED)
    assert cutout.shape == (*alpha.shape, 4)
    assert np.abs(cutout[..., 3] / 255 - matte).max() < 0.003
    facts = json.loads((folder / "f.json").read_text())
    assert facts["ms"] > 0
    assert facts["warnings"] == []
    assert facts["covered"] == pytest.approx((matte > 0.5).mean(), abs=1e-4)


def test_colours_full_of_noise_are_calmed_before_anybody_looks_and_kept_in_what_is_cut_out(tmp_path):
    frame, alpha = by_colour()
    cv2.imwrite(str(tmp_path / "still.png"), frame[..., ::-1])
    lines = ([{"points": line, "width": 6} for line in side] for side in BY_COLOUR)
    (tmp_path / "marks.json").write_text(json.dumps(dict(zip(("keep", "drop"), lines, strict=True))))
    files = {f"--{name}": str(tmp_path / f"{name}.png") for name in ("matte", "out")}
    given = [str(tmp_path / "still.png"), "--marks", str(tmp_path / "marks.json")]
    assert main(["cut", *given, *(word for pair in files.items() for word in pair)]) == 0
    matte = matte_of(tmp_path / "matte.png")
    assert overlap(matte, alpha) > 0.8  # without it, 0.65
    cutout = cv2.imread(str(tmp_path / "out.png"), cv2.IMREAD_UNCHANGED)[..., 2::-1].astype(int)
    assert np.abs(cutout - frame)[matte == 1].max() <= 1


def test_growing_moves_the_edge(still):
    folder, _ = still
    areas = []
    for by in ("-3", "0", "3"):
        options = ["--marks", str(folder / "marks.json"), f"--grow={by}", "--fine-edge", "0"]
        assert main(["cut", str(folder / "still.png"), *options, "--matte", str(folder / "m.png")]) == 0
        areas.append(matte_of(folder / "m.png").sum())
    assert areas[0] < areas[1] < areas[2]


def test_an_svg_path_with_a_hole(still):
    folder, _ = still
    path = folder / "shape.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path fill-rule="evenodd" '
        'd="M20 20 H120 V220 H20 Z M40 40 H100 V200 H40 Z"/><circle cx="150" cy="60" r="10"/></svg>'
    )
    assert main(["cut", str(folder / "still.png"), "--path", str(path), "--matte", str(folder / "m.png")]) == 0
    matte = matte_of(folder / "m.png")
    assert matte.sum() == pytest.approx(100 * 200 - 60 * 160 + np.pi * 100, rel=0.002)
    assert matte[30, 30] == 1
    assert matte[100, 70] == 0
    assert matte[60, 150] == 1


def test_pick_mover_in_a_video(clip, tmp_path):
    path, alphas, _ = clip
    assert main(["cut", str(path), "--frame", "12", "--pick", "mover", "--matte", str(tmp_path / "m.png")]) == 0
    assert overlap(matte_of(tmp_path / "m.png"), alphas[12]) > 0.9


def test_plate_and_the_difference_to_it(clip, tmp_path):
    path, alphas, scenes = clip
    plate = tmp_path / "plate.png"
    assert main(["plate", str(path), "--at", "12", "--out", str(plate), "--json", str(tmp_path / "f.json")]) == 0
    built = cv2.imread(str(plate))[..., ::-1].astype(int)
    assert np.abs(built - scenes[12])[alphas[12] > 0.5].mean() < 6
    assert "ms" in json.loads((tmp_path / "f.json").read_text())
    options = ["--frame", "12", "--pick", "difference", "--plate", str(plate)]
    assert main(["cut", str(path), *options, "--matte", str(tmp_path / "m.png")]) == 0
    assert overlap(matte_of(tmp_path / "m.png"), alphas[12]) > 0.9


@pytest.fixture(scope="module")
def two_takes(clip, tmp_path_factory):
    """The same video after seven frames of another place."""
    elsewhere = texture(160, 120, (90, 70, 150), 21, 40).clip(0, 255).astype(np.uint8)
    elsewhere[30:110, 20:80] = 230
    frames = [elsewhere] * 7 + passing(24)[0]
    path = tmp_path_factory.mktemp("takes") / "two.mp4"
    return make_video(path, 31, (120, 160), picture=lambda n, *_: frames[n], options={"crf": "12"}), clip[1], clip[2]


def test_only_frames_of_the_same_take_are_compared(two_takes, tmp_path):
    path, alphas, scenes = two_takes
    assert main(["cut", str(path), "--frame", "15", "--pick", "mover", "--matte", str(tmp_path / "m.png")]) == 0
    assert overlap(matte_of(tmp_path / "m.png"), alphas[8]) > 0.9
    assert main(["plate", str(path), "--at", "15", "--out", str(tmp_path / "p.png")]) == 0
    built = cv2.imread(str(tmp_path / "p.png"))[..., ::-1].astype(int)
    assert np.abs(built - scenes[8])[alphas[8] > 0.5].mean() < 6


def test_a_matte_is_carried_as_far_as_its_take(two_takes, tmp_path, capsys):
    path, alphas, _ = two_takes
    matte, out, facts = tmp_path / "m.png", tmp_path / "out", tmp_path / "f.json"
    cv2.imwrite(str(matte), np.round(alphas[6] * 255).astype(np.uint8))
    options = ["--from", "13", "--matte", str(matte), "--out", str(out), "--json", str(facts)]
    assert main(["carry", str(path), *options, "--to", "4:11"]) == 0
    assert sorted(p.stem for p in out.iterdir()) == ["000007", "000008", "000009", "000010"]
    assert overlap(matte_of(out / "000010.png"), alphas[3]) > 0.8
    assert any("the take of frame 13 begins at frame 7." in w for w in json.loads(facts.read_text())["warnings"])
    assert main(["carry", str(path), *options, "--to", "1:5"]) == 1
    assert "begins at frame 7" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{", "not a marks file"),
        ('{"keep": [{"points": [[1, 2]]}]}', "keep.0.width"),
        ('{"keep": [], "drop": []}', "no marks yet"),
        ('{"keep": [{"points": [[900, 900]], "width": 5}]}', "outside the frame"),
    ],
)
def test_marks_that_cannot_be_used_are_said(still, capsys, text, says):
    folder, _ = still
    (folder / "bad.json").write_text(text)
    options = ["--marks", str(folder / "bad.json"), "--matte", str(folder / "m.png")]
    assert main(["cut", str(folder / "still.png"), *options]) == 1
    assert says in capsys.readouterr().err
    assert not (folder / "m.png").exists()


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--pick", "mover"], "fewer than four"),
        (["--pick", "difference"], "needs the clean plate"),
        (["--path", "missing.svg"], "cannot be read as SVG"),
        (["--path", "marks.json"], "not an SVG document"),
        (["--path", "empty.svg"], "fills no pixel"),
        (["--pick", "difference", "--plate", "small.png"], "The plate is 9 × 7 pixels"),
        (["--pick", "difference", "--plate", "marks.json"], "cannot be read as a picture"),
    ],
)
def test_what_cannot_be_done_is_said(still, capsys, monkeypatch, arguments, says):
    folder, _ = still
    monkeypatch.chdir(folder)
    (folder / "empty.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg"/>')
    cv2.imwrite(str(folder / "small.png"), np.zeros((7, 9, 3), np.uint8))
    assert main(["cut", "still.png", *arguments, "--matte", "m.png"]) == 1
    assert says in capsys.readouterr().err


def test_a_frame_that_is_not_there_and_a_file_that_is_no_video(clip, tmp_path, capsys):
    path, _, _ = clip
    assert main(["cut", str(path), "--frame", "99", "--pick", "mover", "--matte", str(tmp_path / "m.png")]) == 1
    assert "no frame 99; its last one is 23" in capsys.readouterr().err
    assert main(["cut", str(path), "--frame=-1", "--pick", "person", "--matte", str(tmp_path / "m.png")]) == 1
    assert "counted from 0" in capsys.readouterr().err
    (tmp_path / "x.mp4").write_bytes(b"nothing of the kind")
    assert main(["plate", str(tmp_path / "x.mp4"), "--at", "0", "--out", str(tmp_path / "p.png")]) == 1
    assert "cannot be read as video" in capsys.readouterr().err

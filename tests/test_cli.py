"""The command line, as a person types it."""

import json
import os
import subprocess
import sys
import zipfile

import cv2
import pytest

from nervykite.cli import main, parser
from nervykite.core.change.edits import ChangeMatte, HoldFrame
from nervykite.core.piece.model import Matte
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.core.see.footage import loose
from nervykite.demo import FOOTAGE
from nervykite.demo.demo_project import NAME, add_demo
from nervykite.studio import Studio, default_folder
from nervykite.studio.importing import import_shot
from tools import bench

from .conftest import box
from .media import decode_luma, make_video, number_of


@pytest.fixture
def data(tmp_path):
    """A data folder with a project of one numbered shot."""
    studio = Studio(tmp_path / "data")
    project = studio.projects.new("Relay").document.project.id
    import_shot(studio, project, studio.keep_file(make_video(tmp_path / "clip.mp4", frames=30)), "clip.mp4")
    studio.close()
    return tmp_path / "data"


def test_export_by_name_and_by_id(data, tmp_path, capsys):
    out = tmp_path / "piece.mp4"
    assert main(["export", "Relay", "--data", str(data), "--out", str(out), "--range", "4:12"]) == 0
    assert [number_of(f) for f in decode_luma(out)] == list(range(4, 12))
    assert str(out) in capsys.readouterr().err
    project = Studio(data).projects.list()[0].id
    again = tmp_path / "again.mp4"
    assert main(["export", project, "--data", str(data), "--out", str(again)]) == 0
    assert len(decode_luma(again)) == 30


def with_cutout(data) -> None:
    """Holds a frame of the shot and carves a box out of it, as a layer called Runner."""
    studio = Studio(data)
    project = studio.projects.list()[0].id
    document = studio.projects.state(project).document
    layer = "a" * 16
    hold = HoldFrame(item=document.project.ground[0].id, frame=6, layer=layer, name="Runner")
    document = studio.projects.edit(project, hold, None).document
    held = document.layer(layer).source.hold
    studio.projects.edit(project, ChangeMatte(hold=held, matte=Matte(pieces=[box(40, 30, 120, 90)])), None)
    studio.close()


def test_a_layer_is_exported_with_its_alpha_in_the_format_of_the_ending(data, tmp_path, capsys):
    with_cutout(data)
    arguments = ["export", "Relay", "--data", str(data), "--layer", "Runner"]
    assert main([*arguments, "--to", str(tmp_path / "a.png"), "--still", "10", "--json"]) == 0
    told = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert told[-1]["file"] == str(tmp_path / "a.png")
    assert told[-2] == {"share": 1.0}
    picture = cv2.imread(str(tmp_path / "a.png"), cv2.IMREAD_UNCHANGED)
    assert picture.shape[2] == 4
    assert picture[60, 80, 3] == 255
    assert picture[10, 10, 3] == 0
    assert main([*arguments, "--to", str(tmp_path / "a.zip"), "--range", "6:9", "--set", "depth=16"]) == 0
    with zipfile.ZipFile(tmp_path / "a.zip") as archive:
        assert archive.namelist() == [f"{n:06d} 00-00-{6 + n:02d}.png" for n in range(3)]
    small = ["--set", "under=0.2", "--set", "codec=h264"]
    assert main(["export", "Relay", "--data", str(data), "--to", str(tmp_path / "s.mp4"), *small]) == 0
    assert (tmp_path / "s.mp4").stat().st_size <= 200_000
    size = ["--size", "80x60", "--rate", "15"]
    assert main(["export", "Relay", "--data", str(data), "--ground", "--to", str(tmp_path / "g.mp4"), *size]) == 0
    frames = list(loose.frames(tmp_path / "g.mp4"))
    assert len(frames) == 15
    assert loose.size_of(tmp_path / "g.mp4") == (80, 60)


@pytest.mark.parametrize(
    ("arguments", "sentence"),
    [
        (["export", "Relay", "--to", "x.doc"], "Nothing is written as .doc"),
        (["export", "Relay", "--to", "x.png", "--still", "99"], "which has frames 0 to 29"),
        (["export", "Relay", "--to", "x.mp4", "--layer", "Nobody"], "There is no layer “Nobody”"),
        (["export", "Relay", "--to", "x.mp4", "--set", "quality"], "is no setting"),
        (["export", "Relay", "--to", "x.mp4", "--set", "quality=best"], "MP4: quality"),
        (["export", "Relay", "--to", "x.mp4", "--rate", "0"], "cannot be sent so: rate"),
        (["export", "Relay", "--to", "x.mp4", "--size", "11x80"], "cannot be sent so: size"),
        (["export", "Regatta", "--out", "x.mp4"], "There is no project “Regatta”"),
        (["export", "Relay", "--out", "no/such/folder/x.mp4"], "There is no folder"),
        (["export", "Relay", "--out", "x.mp4", "--range", "20:99"], "which has frames 0 to 29"),
    ],
)
def test_what_cannot_be_done_gets_a_sentence(data, tmp_path, capsys, monkeypatch, arguments, sentence):
    monkeypatch.chdir(tmp_path)
    assert main([*arguments, "--data", str(data)]) == 1
    error = capsys.readouterr().err
    assert sentence in error
    assert error.splitlines()[-1].startswith("nervykite: ")
    assert not (tmp_path / "x.mp4").exists()


@pytest.mark.parametrize("text", ["5", "9:3", "a:b", "-1:4", "3:3"])
def test_a_range_that_is_none_is_refused(text, capsys):
    with pytest.raises(SystemExit):
        parser().parse_args(["export", "x", "--out", "y", "--range", text])
    assert "--range" in capsys.readouterr().err


def test_list_of_projects(data, capsys):
    main(["projects", "--data", str(data)])
    assert "160×120" in capsys.readouterr().out
    main(["projects", "--data", str(data), "--json"])
    (entry,) = json.loads(capsys.readouterr().out)
    assert (entry["name"], entry["width"], entry["height"]) == ("Relay", 160, 120)


def test_an_unusable_data_folder_gets_a_sentence(tmp_path, capsys):
    (tmp_path / "file").write_text("in the way")
    assert main(["projects", "--data", str(tmp_path / "file" / "data")]) == 1
    assert "cannot be used" in capsys.readouterr().err


def test_demo_is_added_once(tmp_path):
    assert main(["demo", "--data", str(tmp_path), "--no-serve"]) == 0
    assert main(["demo", "--data", str(tmp_path), "--no-serve"]) == 0
    studio = Studio(tmp_path)
    (entry,) = studio.projects.list()
    assert entry.name == NAME
    document = studio.projects.state(entry.id).document
    assert [x.name for x in document.project.layers][:4] == ["Leap 1", "Leap 2", "Leap 3", "Touch down"]
    assert 18 < Timeline(document).length / document.project.rate < 23
    assert all(hold.matte.pieces for hold in document.holds.values())
    # What a piece can be made of is in it: a standstill, an arrival, pictures, a group, a blend mode.
    assert "standstill" in {g.source.kind for g in document.project.ground}
    kinds = {x.source.kind for x in document.project.layers}
    assert {"hold", "image", "group", "lettering", "box", "wash", "blot", "confetti"} == kinds
    assert {"trail", "ahead", "arrival", "standstill", "free"} == {x.arrangement.kind for x in document.project.layers}
    assert "screen" in {x.blend for x in document.project.layers}
    studio.close()


def test_a_demo_that_was_changed_stays_as_it_is(tmp_path):
    studio = Studio(tmp_path)
    add_demo(studio, scenes=1)
    (entry,) = studio.projects.list()
    item = studio.projects.state(entry.id).document.project.ground[0].id
    studio.projects.edit(entry.id, HoldFrame(item=item, frame=30, name="My own"), None)
    add_demo(studio)
    assert studio.projects.state(entry.id).document.project.layers[-1].name == "My own"
    studio.close()


def test_without_a_folder_the_usual_one_of_the_platform_is_taken(tmp_path):
    environment = {**os.environ, "XDG_DATA_HOME": str(tmp_path)}
    code = "from nervykite.studio import default_folder; print(default_folder())"
    shown = subprocess.run([sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=True)
    assert shown.stdout.strip() == str(tmp_path / "nervykite")
    assert default_folder().name == "nervykite"


def test_a_measurement_prints_a_table_and_writes_json(tmp_path, capsys, monkeypatch):
    import types

    figures = {"ours, ms": 2.0, "runs": 3}
    fake = types.SimpleNamespace(measure=lambda: bench.Result("seek", 0.25, "fast", figures))
    monkeypatch.setattr(bench.importlib, "import_module", lambda *a: fake)
    assert main(["bench", "seek", "--json", str(tmp_path / "x.json")]) == 0
    assert "0.25 times the baseline" in capsys.readouterr().out
    written = json.loads((tmp_path / "x.json").read_text())
    facts = {"name": "seek", "ratio": 0.25, "aim": "fast", "figures": figures, "counted": "times the baseline"}
    assert written == facts


def test_measurements_run_on_small_material(monkeypatch):
    """Each of them works; what they find on small material means nothing."""
    from tools.bench import export, material, picture, seek

    small = material.enlarged_demo

    def smaller(path, frames, size=(1080, 1920), gop=250):
        small(path, min(frames, 30), (216, 384), gop)

    monkeypatch.setattr(material, "enlarged_demo", smaller)
    monkeypatch.setattr(picture, "REPEATS", 4)
    monkeypatch.setattr(export, "RUNS", 1)
    monkeypatch.setattr(export, "FRAMES", 30)
    monkeypatch.setattr(export, "CLEAR", 4)
    for module, figure in ((picture, "540x960, ms a frame"), (export, "export, s"), (seek, "to a picture, ms")):
        result = module.measure()
        assert result.ratio > 0
        assert result.figures[figure] > 0


def test_a_data_folder_has_one_server(tmp_path, capsys):
    """A second one says so and ends; an export may read beside the first; a killed one leaves nothing in the way."""
    from nervykite.core.common.errors import Refusal
    from nervykite.studio import Studio
    from nervykite.studio.claim import Claim

    studio = Studio(tmp_path)
    studio.projects.new("Empty")
    studio.close()
    holding = (
        "import sys, time; from pathlib import Path; from nervykite.studio.claim import Claim;"
        "claim = Claim(Path(sys.argv[1])); print('held', flush=True); time.sleep(60)"
    )
    other = subprocess.Popen([sys.executable, "-c", holding, str(tmp_path)], stdout=subprocess.PIPE, text=True)
    assert other.stdout.readline() == "held\n"
    with pytest.raises(Refusal, match=f"already running on this data folder .process {other.pid}"):
        Claim(tmp_path)
    assert main(["serve", "--data", str(tmp_path), "--port", "0"]) == 1
    assert "already running" in capsys.readouterr().err
    assert main(["export", "Empty", "--data", str(tmp_path), "--out", str(tmp_path / "x.mp4")]) == 1
    assert "Import a shot first" in capsys.readouterr().err
    other.kill()
    other.wait()
    other.stdout.close()
    Claim(tmp_path).release()


def test_a_piece_is_made_of_a_video_in_one_command(tmp_path, capsys):
    out = tmp_path / "piece.mp4"
    clip = FOOTAGE / "kite-catch.mp4"
    kept = ["--data", str(tmp_path / "data"), "--project", "Catch"]
    assert main(["make", "trail", str(clip), "--out", str(out), "--set", "many=2", "--json", *kept]) == 0
    told = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert told[0]["does"] == "Looks through kite-catch"
    assert told[-1]["file"] == str(out)
    assert len(list(loose.frames(out))) > 60
    studio = Studio(tmp_path / "data")
    document = studio.state(studio.projects.find("Catch")).document
    studio.close()
    assert [x.arrangement.kind for x in document.project.layers] == ["trail", "trail"]
    assert main(["recipes", "--json"]) == 0
    listed = json.loads(capsys.readouterr().out)
    assert {"trail", "pops", "waiting-figures"} <= {r["kind"] for r in listed}
    assert main(["recipes"]) == 0


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["tral", "CLIP"], "There is no recipe “tral”"),
        (["trail", "CLIP", "--set", "mony=4"], "has no “mony”"),
        (["trail", "CLIP", "--set", "many"], "Write KEY=VALUE"),
        (["trail", "CLIP", "--set", "many=lots"], "That is no setting of “Trail”"),
        (["drop-on-the-cut", "CLIP"], "needs 2 takes"),
        (["trail", "nowhere.mp4"], "There is no file nowhere.mp4"),
    ],
)
def test_what_cannot_be_made_gets_a_sentence(tmp_path, capsys, arguments, says):
    clip = make_video(tmp_path / "clip.mp4", frames=20)
    given = [str(clip) if a == "CLIP" else a for a in arguments]
    assert main(["make", *given, "--out", str(tmp_path / "piece.mp4")]) == 1
    assert says in capsys.readouterr().err
    assert not (tmp_path / "piece.mp4").exists()


def test_a_measurement_without_a_browser_says_what_to_install(monkeypatch, tmp_path, capsys):
    from tools.bench import browser

    monkeypatch.setattr(browser, "CHROMIUM", tmp_path / "chromium")
    for name in ("edit", "sky"):
        assert main(["bench", name]) == 1
        assert "install chromium" in capsys.readouterr().err

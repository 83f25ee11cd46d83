"""Catching over the API: what was seen, proposals, cadence, ghosts, sheets; moments moved; cutting out in one go."""

import time

import cv2
import numpy as np
import pytest

from nervykite.core.change.edits import ChangeMoment, NudgeMoment, SetTravel
from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Matte
from nervykite.core.see.catch.seen import METHOD
from nervykite.core.see.find.proposal import Proposal
from nervykite.demo import FOOTAGE
from nervykite.demo.seen_shipped import KEPT, put_seen
from nervykite.studio import watching
from nervykite.studio.importing import import_shot
from nervykite.studio.watching import ShotObservations, unwatched, watch_shot

from ..conftest import box, held
from ..core.scenes import walking
from ..media import make_video
from ..views import whole
from .api import carved, edit, upload, wait_for

pytestmark = pytest.mark.watches
WIDE, HIGH = 240, 300


def shot_of(view):
    (shot,) = view["shots"].values()
    return shot


def at(view):
    return f"/api/projects/{view['project']['id']}/shots/{shot_of(view)['id']}"


def watched(client, view, seconds=60):
    """What was seen of a project's shot, once all of it was."""
    item = view["project"]["ground"][0]["id"]
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        told = client.get(f"{at(view)}/watched", params={"item": item}).json()
        if sum(b - a for a, b in told["known"]) == shot_of(view)["frames"]:
            return told
        time.sleep(0.05)
    raise TimeoutError


@pytest.fixture
def walk(client, tmp_path):
    """A project in which somebody walks through the picture, and how it is cut out."""
    frames, alphas = walking(20, HIGH, WIDE)
    made = client.post("/api/projects", json={"name": "Walk"}).json()["project"]["id"]
    path = make_video(tmp_path / "walk.mp4", 20, (WIDE, HIGH), picture=lambda n, w, h: frames[n])
    assert upload(client, made, path)["state"] == "done"
    return whole(client.get(f"/api/projects/{made}").json()), alphas


class TestWatched:
    def test_a_shot_is_looked_through_by_itself_and_what_is_seen_is_kept(self, client, studio, walk):
        view, _ = walk
        told = watched(client, view)
        assert told["step"] == 1
        assert len(told["crisp"]) == len(told["gone"]) == 20
        assert max(v for v in told["gone"] if v is not None) == 1
        (shot,) = studio.state(view["project"]["id"]).document.shots.values()
        assert unwatched(studio, shot) == []
        again = ShotObservations(studio).seen(shot)
        assert sum(one.share > 0 for one in again) > 15

    def test_what_was_stopped_goes_on_where_it_was(self, studio, walk, monkeypatch):
        view, _ = walk
        (shot,) = studio.state(view["project"]["id"]).document.shots.values()
        with studio.database.writing() as connection:
            connection.execute("DELETE FROM watched")
        monkeypatch.setattr(watching, "STRETCH", 6)
        monkeypatch.setattr(watching, "AGAIN", 3)

        class Enough(Exception):
            pass

        def stop(past):
            if past >= 12:
                raise Enough

        with pytest.raises(Enough):
            watch_shot(studio, shot, stop)
        assert unwatched(studio, shot) == [range(12, 20)]
        read = []
        real = watching.pictures
        monkeypatch.setattr(watching, "pictures", lambda s, x, frames: (read.append(frames), real(s, x, frames))[1])
        watch_shot(studio, shot)
        assert read == [range(9, 20)]
        assert unwatched(studio, shot) == []

    def test_what_another_version_saw_is_looked_at_again(self, studio, walk):
        view, _ = walk
        (shot,) = studio.state(view["project"]["id"]).document.shots.values()
        watch_shot(studio, shot)
        with studio.database.writing() as connection:
            connection.execute("UPDATE watched SET method = method - 1")
        assert unwatched(studio, shot) == [range(20)]
        watch_shot(studio, shot)
        with studio.database.reading() as connection:
            assert connection.execute("SELECT count(DISTINCT method) FROM watched").fetchone()[0] == 1

    def test_it_goes_with_its_shot(self, client, studio, walk):
        view, _ = walk
        watched(client, view)
        client.delete(f"/api/projects/{view['project']['id']}")
        studio.projects.forget(view["project"]["id"])
        studio.projects.forget_shots()
        with studio.database.reading() as connection:
            assert connection.execute("SELECT count(*) FROM watched").fetchone()[0] == 0

    def test_what_was_seen_of_the_demos_shots_ships_with_them(self, studio):
        studio.watches = False
        project = studio.projects.new("Shore").document.project.id
        clip = FOOTAGE / "empty-shore.mp4"
        shot, _ = import_shot(studio, project, studio.keep_file(clip), clip.name)
        assert sum(map(len, unwatched(studio, shot))) == shot.frames
        put_seen(studio, shot.id, clip.stem)
        assert unwatched(studio, shot) == []
        assert len(ShotObservations(studio).bodies(shot, [0, shot.frames - 1])) == 2
        # All of them are there, by the method that is used now.
        for path in FOOTAGE.glob("*.mp4"):
            with np.load(KEPT / f"{path.stem}.npz") as seen:
                assert int(seen["method"]) == METHOD, "`python -m nervykite.demo.seen_shipped` looks at them again"

    def test_the_same_file_elsewhere_is_known_at_once(self, client, studio, walk, tmp_path):
        view, _ = walk
        watched(client, view)
        (first,) = studio.state(view["project"]["id"]).document.shots.values()
        studio.watches = False
        made = client.post("/api/projects", json={"name": "Again"}).json()["project"]["id"]
        assert upload(client, made, tmp_path / "walk.mp4")["state"] == "done"
        (again,) = studio.state(made).document.shots.values()
        assert again.id != first.id
        assert unwatched(studio, again) == []
        looks = ShotObservations(studio)
        assert looks.seen(again) == looks.seen(first)
        frames = [3, 11, 19]
        assert all(map(np.array_equal, looks.bodies(again, frames), looks.bodies(first, frames)))
        # Another file is looked at for itself.
        other = client.post("/api/projects", json={"name": "Other"}).json()["project"]["id"]
        assert upload(client, other, make_video(tmp_path / "other.mp4", 20, (WIDE, HIGH)))["state"] == "done"
        (shot,) = studio.state(other).document.shots.values()
        assert sum(map(len, unwatched(studio, shot))) == 20

    @pytest.mark.parametrize(
        ("frames", "rate", "says"), [(1, 30, "one picture only"), (24, 30, "Nothing moves"), (40, 240, "Nothing moves")]
    )
    def test_what_cannot_be_followed_says_so(self, client, tmp_path, frames, rate, says):
        made = client.post("/api/projects", json={"name": "Still"}).json()["project"]["id"]
        still = np.random.default_rng(2).integers(0, 255, (120, 160, 3), np.uint8)
        path = make_video(tmp_path / "still.mp4", frames, rate=rate, picture=lambda n, w, h: still)
        assert upload(client, made, path)["state"] == "done"
        view = whole(client.get(f"/api/projects/{made}").json())
        told = watched(client, view)
        assert says in told["note"]
        assert [p for p in told["proposals"] if p["peak"] > 0] == []

    def test_where_the_piece_leaves_frames_out_it_says_how_to_have_more(self, client, tmp_path):
        made = client.post("/api/projects", json={"name": "Quick"}).json()["project"]["id"]
        assert upload(client, made, make_video(tmp_path / "a.mp4", 12, (WIDE, HIGH)))["state"] == "done"
        frames, _ = walking(40, HIGH, WIDE, step=2)
        path = make_video(tmp_path / "quick.mp4", 40, (WIDE, HIGH), rate=120, picture=lambda n, w, h: frames[n])
        assert upload(client, made, path)["state"] == "done"
        view = whole(client.get(f"/api/projects/{made}").json())
        (shot,) = (s["id"] for s in view["shots"].values() if s["name"] == "quick")
        item = view["project"]["ground"][1]["id"]
        url, until = f"/api/projects/{made}/shots/{shot}/watched", time.monotonic() + 60
        told = client.get(url, params={"item": item}).json()
        while told["note"] is None and time.monotonic() < until:
            time.sleep(0.1)
            told = client.get(url, params={"item": item}).json()
        assert "every 4th frame" in told["note"]
        shown = set(view["told"]["items"][item]["frames"])
        assert {p["frame"] for p in told["proposals"]} <= shown

    def test_a_long_shot_has_no_more_values_than_can_be_seen(self, client, walk, monkeypatch):
        from nervykite.server.routes import catching_routes

        view, _ = walk
        watched(client, view)
        monkeypatch.setattr(catching_routes, "MOST_VALUES", 7)
        told = client.get(f"{at(view)}/watched").json()
        assert (told["step"], len(told["gone"])) == (3, 7)


class TestChoosing:
    def test_cadence_over_the_frames_that_the_ground_shows(self, client, walk):
        view, _ = walk
        item = view["project"]["ground"][0]["id"]
        watched(client, view)
        body = {"first": 4, "last": 16, "count": 4}
        told = client.post(f"{at(view)}/cadence", params={"item": item}, json=body).json()
        assert told == [4, 8, 12, 16]
        pairs = client.post(f"{at(view)}/overlaps", json={"frames": told}).json()
        assert all(o["one"] < o["other"] for o in pairs)
        assert pairs[0]["share"] > 0.1
        told = client.post(f"{at(view)}/cadence", params={"item": item}, json=body | {"every": 5}).json()
        assert told == [4, 9, 14]
        view = edit(client, view, kind="change ground", item=item, first=6)
        told = client.post(f"{at(view)}/cadence", params={"item": item}, json=body).json()
        assert min(told) >= 6

    def test_wrong_questions_get_a_sentence(self, client, walk):
        view, _ = walk
        answer = client.post(f"{at(view)}/cadence", json={"first": 9, "last": 4})
        assert (answer.status_code, "first one first" in answer.json()["message"]) == (400, True)
        answer = client.get(f"{at(view)}/ghosts.jpg", params={"under": 3, "frames": "4,900"})
        assert (answer.status_code, "no such frame" in answer.json()["message"]) == (404, True)
        assert client.get(f"{at(view)}/ghosts.jpg", params={"under": 3, "frames": "4,x"}).status_code == 400
        answer = client.get(f"{at(view)}/watched", params={"item": "0" * 16})
        assert answer.status_code == 404
        answer = client.get(f"{at(view)}/sheet.png", params={"first": 90, "past": 99})
        assert (answer.status_code, "no frames there" in answer.json()["message"]) == (400, True)

    def test_ghosts_show_the_bodies_of_all_chosen_frames(self, client, walk):
        view, alphas = walk
        watched(client, view)
        params = {"under": 2, "frames": "10,18", "strength": 1}
        data = client.get(f"{at(view)}/ghosts.jpg", params=params).content
        made = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)

        def source(frame):
            data = client.get(f"{at(view)}/frames/{frame}.jpg", params={"width": WIDE}).content
            return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR).astype(int)

        assert made.shape == (HIGH, WIDE, 3)
        for frame, later in ((10, alphas[18] > 0.01), (18, np.zeros((HIGH, WIDE), bool))):
            body = cv2.erode((alphas[frame] > 0.9).astype(np.uint8), np.ones((9, 9))) > 0
            alone = body & ~later & (alphas[2] < 0.01)
            assert alone.sum() > 400
            there = np.abs(made - source(frame))[alone].mean()
            assert there < 0.5 * np.abs(source(2) - source(frame))[alone].mean()

    def test_sheet_and_still_are_named_after_what_they_show(self, client, walk):
        view, _ = walk
        answer = client.get(f"{at(view)}/sheet.png", params={"first": 2, "past": 12, "every": 2})
        assert "walk%202-10.png" in answer.headers["content-disposition"]
        assert cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR) is not None
        answer = client.get(f"{at(view)}/frames/7.png", params={"at": 37})
        assert "walk%2000-01-07.png" in answer.headers["content-disposition"]
        assert cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR).shape == (HIGH, WIDE, 3)


class TestInOneGo:
    def test_frames_are_held_and_cut_out_and_it_goes_on_from_what_is_there(self, client, walk):
        view, alphas = walk
        item = view["project"]["ground"][0]["id"]
        url = f"/api/projects/{view['project']['id']}"
        frames = [{"frame": 6, "name": "Step"}, {"frame": 9}, {"frame": 12}]
        job = wait_for(client, client.post(f"{url}/carve-all", json={"item": item, "frames": frames}).json(), 120)
        assert job["state"] == "done", job
        assert (job["result"]["frames"], job["result"]["left"]) == (3, [])
        view = whole(client.get(url).json())
        assert sorted(h["hold"]["frame"] for h in view["told"]["holds"].values()) == [6, 9, 12]
        assert view["project"]["layers"][0]["name"] == "Step"
        assert len(job["result"]["layers"]) == 3
        for entry in view["told"]["holds"].values():
            hold = entry["hold"]
            (piece,) = hold["matte"]["pieces"]
            data = client.get(f"/api/rasters/{piece['raster']['file']}.png").content
            alpha = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_GRAYSCALE) > 127
            truth = alphas[hold["frame"]] > 0.5
            assert (alpha & truth).sum() / (alpha | truth).sum() > 0.8
        undone = client.post(f"{url}/undo", json={"revision": view["revision"]}).json()
        more = [*frames, {"frame": 15}]
        job = wait_for(client, client.post(f"{url}/carve-all", json={"item": item, "frames": more}).json(), 120)
        assert undone["revision"] > view["revision"]
        assert (job["state"], job["result"]["frames"]) == ("done", 4)

    @pytest.mark.parametrize("unsure", [True, False])
    def test_all_that_comes_of_a_pick_with_parts_that_are_less_sure_is_doubted(self, client, walk, monkeypatch, unsure):
        monkeypatch.setattr(Proposal, "uneven", lambda *_: unsure)
        view, _ = walk
        body = {"item": view["project"]["ground"][0]["id"], "frames": [{"frame": 9}, {"frame": 10}]}
        job = client.post(f"/api/projects/{view['project']['id']}/carve-all", json=body).json()
        told = wait_for(client, job, 120)["result"]
        assert sorted(told["doubtful"]) == (sorted(told["layers"]) if unsure else [])

    def test_what_cannot_be_done_says_why(self, client, project):
        url = f"/api/projects/{project['project']['id']}"
        item = project["project"]["ground"][0]["id"]
        body = {"item": "0" * 16, "frames": [{"frame": 3}]}
        job = wait_for(client, client.post(f"{url}/carve-all", json=body).json())
        assert (job["state"], "no footage there" in job["message"]) == ("failed", True)
        job = wait_for(client, client.post(f"{url}/carve-all", json={"item": item, "frames": [{"frame": 99}]}).json())
        assert (job["state"], "does not show frame 99" in job["message"]) == ("failed", True)
        assert client.post(f"{url}/carve-all", json={"item": item, "frames": []}).status_code == 400


class TestMoments:
    def test_a_moment_takes_its_hold_along(self, client, project):
        item = project["project"]["ground"][0]["id"]
        view = edit(client, project, kind="hold", item=item, frame=6)
        shot = shot_of(view)
        moment = shot["moments"][0]["id"]
        view = edit(client, view, kind="change moment", shot=shot["id"], moment=moment, frame=9)
        (entry,) = view["told"]["holds"].values()
        layer = view["project"]["layers"][0]["id"]
        assert entry["hold"]["frame"] == 9
        assert view["layers"][layer]["start"] == view["layers"][layer]["landing"] == 9

    def test_where_it_is_carved_the_matte_is_carried_first(self, client, walk):
        view, alphas = walk
        url = f"/api/projects/{view['project']['id']}"
        item = view["project"]["ground"][0]["id"]
        frames = [{"frame": 8}]
        wait_for(client, client.post(f"{url}/carve-all", json={"item": item, "frames": frames}).json(), 120)
        view = whole(client.get(url).json())
        moment = shot_of(view)["moments"][0]["id"]
        refused = client.post(
            f"{url}/edits",
            json={
                "revision": view["revision"],
                "edit": {"kind": "change moment", "shot": shot_of(view)["id"], "moment": moment, "frame": 10},
            },
        )
        assert (refused.status_code, "Carry it there first" in refused.json()["message"]) == (400, True)
        job = wait_for(client, client.post(f"{at(view)}/moments/{moment}/nudge", json={"frame": 10}).json(), 60)
        assert job["state"] == "done", job
        view = whole(client.get(url).json())
        (entry,) = view["told"]["holds"].values()
        assert (entry["hold"]["frame"], shot_of(view)["moments"][0]["frame"]) == (10, 10)
        (piece,) = entry["hold"]["matte"]["pieces"]
        data = client.get(f"/api/rasters/{piece['raster']['file']}.png").content
        alpha = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_GRAYSCALE) > 127
        truth = alphas[10] > 0.5
        assert (alpha & truth).sum() / (alpha | truth).sum() > 0.8

    def test_a_travelling_matte_knows_where_it_has_been(self, reel):
        document, layer = held(reel().document(), 6, Matte(pieces=[box(10, 10, 60, 60)]))
        hold = document.layer(layer).source.hold
        (shot,) = document.shots.values()
        moment = shot.moments[0].id
        document = SetTravel(hold=hold, range=(2, 20)).apply(document)
        carried = [box(20, 10, 70, 60)]
        moved = NudgeMoment(shot=shot.id, moment=moment, frame=9, carried={hold: carried}).apply(document)
        assert moved.holds[hold].matte.pieces == carried
        assert moved.holds[hold].travel.at(6).pieces == document.holds[hold].matte.pieces
        back = ChangeMoment(shot=shot.id, moment=moment, frame=6).apply(moved)
        assert back.holds[hold].matte.pieces == document.holds[hold].matte.pieces
        assert back.holds[hold].travel.at(9).pieces == carried
        with pytest.raises(Refusal, match="travels through frames 2 to 19"):
            NudgeMoment(shot=shot.id, moment=moment, frame=22, carried={hold: carried}).apply(document)

    def test_it_stays_where_another_is_or_the_ground_shows_nothing(self, reel):
        document, layer = held(reel().document(), 6)
        (shot,) = document.shots.values()
        moment = shot.moments[0].id
        other, _ = held(document, 9)
        with pytest.raises(Refusal, match="flagged already"):
            ChangeMoment(shot=shot.id, moment=moment, frame=9).apply(other)
        with pytest.raises(Refusal, match="no frame 24"):
            ChangeMoment(shot=shot.id, moment=moment, frame=24).apply(document)

    def test_tags_are_given_and_taken_and_kept(self, client, project):
        shot = shot_of(project)["id"]
        view = edit(client, project, kind="add moment", shot=shot, frame=5, name="Leap")
        moment = shot_of(view)["moments"][0]["id"]
        view = edit(client, view, kind="change moment", shot=shot, moment=moment, tag="amber")
        assert shot_of(view)["moments"][0]["tag"] == "amber"
        view = edit(client, view, kind="change moment", shot=shot, moment=moment, name="Top")
        assert (shot_of(view)["moments"][0]["tag"], shot_of(view)["moments"][0]["name"]) == ("amber", "Top")
        view = edit(client, view, kind="change moment", shot=shot, moment=moment, clear=["tag"])
        assert shot_of(view)["moments"][0]["tag"] is None

    def test_flags_outlive_trims(self, client, project):
        shot, item = shot_of(project)["id"], project["project"]["ground"][0]["id"]
        view = edit(client, project, kind="add moment", shot=shot, frame=2)
        view = edit(client, view, kind="change ground", item=item, first=10)
        assert [m["frame"] for m in shot_of(view)["moments"]] == [2]


def test_a_picture_becomes_a_shot_of_one_frame(client, tmp_path):
    made = client.post("/api/projects", json={"name": "Still"}).json()["project"]["id"]
    picture = np.zeros((90, 120, 4), np.uint8)
    picture[..., :3] = (40, 120, 200)
    picture[:, :60, 3] = 255
    cv2.imwrite(str(tmp_path / "badge.png"), picture)
    assert upload(client, made, tmp_path / "badge.png")["state"] == "done"
    view = whole(client.get(f"/api/projects/{made}").json())
    (asset,) = view["assets"]
    job = wait_for(client, client.post(f"/api/projects/{made}/assets/{asset}/shot").json())
    assert job["state"] == "done", job
    view = whole(client.get(f"/api/projects/{made}").json())
    shot = shot_of(view)
    assert (shot["frames"], shot["width"], shot["height"]) == (1, 120, 90)
    data = client.get(f"{at(view)}/frames/0.png").content
    shown = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR).astype(int)
    assert np.abs(shown[45, 30] - [40, 120, 200]).max() <= 3
    assert shown[45, 90].max() <= 3
    view = carved(client, view, 0)
    assert client.post(f"/api/projects/{made}/assets/{'0' * 16}/shot").status_code == 404


def test_adding_several_moments_is_one_step(client, project):
    shot = shot_of(project)["id"]
    edits = [{"kind": "add moment", "shot": shot, "frame": f} for f in (3, 6, 9)]
    view = edit(client, project, kind="several", edits=edits)
    assert [m["frame"] for m in shot_of(view)["moments"]] == [3, 6, 9]

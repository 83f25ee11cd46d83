"""Carving over the API: marks, picks, outlines, files in and out, the shelf, carrying, plates."""

import time

import cv2
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.see.carry.carry import carry
from nervykite.core.see.carry.reel import Reel
from nervykite.core.see.matte.svg_mattes import pieces
from nervykite.studio import carving, cutting, marking
from nervykite.studio.carving import FindRequest

from ..core.scenes import BY_COLOUR, by_colour, overlap, passing, texture, walking
from ..core.test_wavering import DROP as ONE_DROP
from ..core.test_wavering import KEEP as ONE_KEEP
from ..core.test_wavering import nobody, two_in_one
from ..media import make_video
from ..views import whole
from .api import box_matte, drawn, edit, listening, upload, wait_for

WIDE, HIGH = 240, 300


@pytest.fixture
def walk():
    """Frames and alphas of a subject that walks through a scene."""
    return walking(20, HIGH, WIDE)


@pytest.fixture
def held(client, walk, tmp_path):
    """A project with that footage, frame 8 held; and the address of the hold."""
    return hold_frame(
        client, make_video(tmp_path / "walk.mp4", 20, (WIDE, HIGH), picture=lambda n, w, h: walk[0][n]), 8
    )


def hold_frame(client, path, frame):
    made = client.post("/api/projects", json={"name": "Relay"}).json()["project"]["id"]
    assert upload(client, made, path)["state"] == "done"
    view = whole(client.get(f"/api/projects/{made}").json())
    view = edit(client, view, kind="hold", item=view["project"]["ground"][0]["id"], frame=frame)
    hold = view["project"]["layers"][-1]["source"]["hold"]
    return view, f"/api/projects/{made}/holds/{hold}", hold


def stroke(*points, width=6):
    return {"points": [list(p) for p in points], "width": width}


def find(studio, view, hold, keep=(), drop=(), frame=8, **more):
    """What is found in a frame of a hold."""
    asked = FindRequest(**{"kind": "marks", "frame": frame, "keep": list(keep), "drop": list(drop)} | more)
    document = studio.state(view["project"]["id"]).document
    return carving.find(studio, document, document.holds[hold], asked)


PIECE = "f" * 16


def draw(client, url, view, side, mark, **more):
    """The server's answer to a stroke; the view is the one the page has seen."""
    body = {"revision": view["revision"], "frame": 8, "piece": PIECE, "side": side, "mark": mark} | more
    return client.post(f"{url}/strokes", json=body)


def matte_of(client, url):
    """The matte of a hold, by its address, as the document has it."""
    _, _, _, project, _, hold = url.split("/")
    return whole(client.get(f"/api/projects/{project}").json())["holds"][hold]["matte"]["pieces"]


def alpha_at(client, raster):
    data = client.get(f"/api/rasters/{raster['file']}.png").content
    return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_GRAYSCALE) / 255


KEEP = [
    stroke((100, 125), (98, 165)), stroke((104, 86), (104, 98)),
    stroke((86, 185), (78, 220), width=4), stroke((114, 185), (130, 216), width=4),
]  # fmt: skip
DROP = [stroke((20, 20), (20, 280)), stroke((200, 20), (200, 280))]


class TestMarks:
    def test_strokes_find_the_subject_and_more_strokes_change_what_is_near(self, studio, held, walk):
        view, _, hold = held
        first = find(studio, view, hold, KEEP, DROP).piece
        found = carving.alpha_of(studio.library, first.raster)
        assert overlap(found, walk[1][8]) > 0.9
        more = [*DROP, stroke((92, 140), (110, 140))]
        second = find(studio, view, hold, KEEP, more, before=first.raster, newest="drop").piece
        after = carving.alpha_of(studio.library, second.raster)
        assert after[140, 92:110].max() < 0.02
        assert np.abs(after - found)[:60].max() < 0.02

    def test_a_frame_full_of_red_and_green_noise_is_looked_at_calmed(self, client, studio, tmp_path):
        frame, alpha = by_colour()
        path = make_video(
            tmp_path / "noise.mkv", 3, frame.shape[1::-1], picture=lambda *_: frame, codec="ffv1", pix_fmt="yuv444p"
        )
        view, _, hold = hold_frame(client, path, 1)
        keep, drop = ([stroke(*line) for line in lines] for lines in BY_COLOUR)
        found = find(studio, view, hold, keep, drop, frame=1).piece
        assert overlap(carving.alpha_of(studio.library, found.raster), alpha) > 0.8  # without it, 0.65

    def test_few_marks_have_other_outlines_to_choose_from(self, client, tmp_path, monkeypatch):
        monkeypatch.setattr(cutting, "joined", lambda _: nobody)  # who would know what belongs together
        frame, body, both = two_in_one()
        size = frame.shape[1::-1]
        path = make_video(tmp_path / "two.mkv", 3, size, picture=lambda *_: frame, codec="ffv1", pix_fmt="yuv444p")
        view, url, _ = hold_frame(client, path, 1)
        keep, drop = ([stroke(*s.points.tolist(), width=s.width) for s in side] for side in (ONE_KEEP, ONE_DROP))
        asked = {"frame": 1, "piece": PIECE}
        assert client.post(f"{url}/other-outlines", json=asked).json() == []  # as nothing was drawn yet
        for side, mark in [*(("keep", m) for m in keep), *(("drop", m) for m in drop)]:
            assert draw(client, url, view, side, mark, frame=1).status_code == 200
        (other,) = client.post(f"{url}/other-outlines", json=asked).json()
        (piece,) = matte_of(client, url)
        assert overlap(alpha_at(client, piece["raster"]), both) > 0.9
        assert overlap(alpha_at(client, other), body) > 0.9
        draw(client, url, view, "drop", stroke((140, 20), (140, 60)), frame=1)  # which say enough
        assert client.post(f"{url}/other-outlines", json=asked).json() == []

    @pytest.mark.parametrize(
        ("marks", "words"),
        [
            (([], []), "no marks yet"),
            (([stroke((900, 900), (950, 950))], []), "outside the frame"),
            (([], DROP), "No keep stroke"),
        ],
    )
    def test_marks_that_say_nothing_are_refused(self, studio, held, marks, words):
        view, _, hold = held
        with pytest.raises(Refusal, match=words):
            find(studio, view, hold, *marks)


class TestStrokes:
    """A stroke is found and put into the matte in one go."""

    def test_the_first_makes_a_piece_and_those_that_follow_correct_it(self, client, held, walk):
        view, url, _ = held
        told = draw(client, url, view, "keep", KEEP[0], at=4, combine="add").json()
        assert told["view"]["undo"] == "find Marks"
        assert len(told["view"]["near"][1]) == 16  # keys around the frame that is looked at came along
        assert set(told["view"]["holds"]) == {url.split("/")[-1]}
        draw(client, url, told["view"], "drop", DROP[0])
        (piece,) = matte_of(client, url)
        assert (piece["id"], piece["kind"], len(piece["keep"]), len(piece["drop"])) == (PIECE, "marks", 1, 1)
        assert alpha_at(client, piece["raster"])[145, 99] > 0.9

    def test_what_was_done_to_other_pieces_while_it_was_looked_for_stays(self, client, held, studio, monkeypatch):
        view, url, hold = held
        project, finding = view["project"]["id"], carving.find

        def slow(*asked):
            edit(client, view, kind="change matte", hold=hold, matte=box_matte(4, 4, 40, 40))
            return finding(*asked)

        monkeypatch.setattr(marking, "find", slow)
        told = draw(client, url, view, "keep", KEEP[0], combine="cut away").json()["view"]
        assert [(p["kind"], p["combine"]) for p in matte_of(client, url)] == [("pen", "add"), ("marks", "cut away")]
        assert told["revision"] == studio.state(project).revision == view["revision"] + 2

    def test_a_piece_that_was_made_by_a_pick_keeps_what_it_is(self, client, held, walk):
        view, url, hold = held
        grey = np.round(walk[1][8] * 255).astype(np.uint8)
        sent = cv2.imencode(".png", grey)[1].tobytes()
        (piece,) = client.post(f"{url}/pieces", params={"name": "matte.png"}, content=sent).json()
        edit(client, view, kind="change matte", hold=hold, matte={"pieces": [piece]})
        mark = stroke((92, 140), (110, 140), width=12)
        draw(client, url, view, "drop", mark, piece=piece["id"])
        (now,) = matte_of(client, url)
        assert (now["kind"], now["base"]["file"], now["drop"]) == ("picture", piece["raster"]["file"], [mark])
        assert alpha_at(client, now["raster"])[140, 95:107].max() < 0.1
        # Rubbed out, the piece is as it came.
        body = {"revision": view["revision"], "frame": 8, "piece": piece["id"], "place": [100, 147], "reach": 2}
        assert client.post(f"{url}/rub", json=body).status_code == 200
        (back,) = matte_of(client, url)
        assert (back["raster"]["file"], back["drop"]) == (piece["raster"]["file"], [])

    def test_marks_are_rubbed_out_one_by_one_and_the_piece_goes_with_the_last(self, client, held):
        view, url, _ = held
        draw(client, url, view, "keep", KEEP[0])
        draw(client, url, view, "keep", KEEP[1])
        both = matte_of(client, url)[0]

        def rub(x, y):
            body = {"revision": view["revision"], "frame": 8, "piece": PIECE, "place": [x, y], "reach": 1}
            return client.post(f"{url}/rub", json=body)

        assert rub(10, 10).status_code == 200  # nothing lies there
        assert matte_of(client, url) == [both]
        rub(104, 101)
        (one,) = matte_of(client, url)
        assert one["keep"] == [KEEP[0]]
        assert one["raster"] != both["raster"]
        rub(99, 150)
        assert matte_of(client, url) == []
        assert "no longer there" in rub(99, 150).json()["message"]

    def test_what_cannot_be_found_is_said_and_changes_nothing(self, client, held):
        view, url, _ = held
        assert "keep mark over the subject first" in draw(client, url, view, "drop", DROP[0]).json()["message"]
        assert "no frame 99" in draw(client, url, view, "keep", KEEP[0], frame=99).json()["message"]
        far = draw(client, url, view, "keep", stroke((900, 900), (950, 950)))
        assert "outside the frame" in far.json()["message"]
        assert draw(client, f"{url[:-3]}abc", view, "keep", KEEP[0]).status_code == 404
        assert matte_of(client, url) == []

    def test_a_piece_has_so_many_marks_and_no_more(self, client, held, monkeypatch):
        view, url, _ = held
        monkeypatch.setattr(marking, "MOST_MARKS", 1)
        assert draw(client, url, view, "keep", KEEP[0]).status_code == 200
        assert "1 keep marks at most" in draw(client, url, view, "keep", KEEP[1]).json()["message"]
        assert draw(client, url, view, "drop", DROP[0]).status_code == 200


class TestAtOnce:
    def ask(self, socket, hold, *added, **more):
        """The whole matte that a socket foretells, float (h, w), or what it says instead."""
        strokes = [{"side": side, "mark": mark} for side, mark in added]
        socket.send_json({"type": "rough", "seq": 1, "hold": hold, "frame": 8, "added": strokes, **more})
        header, data = drawn(socket)
        if header["trouble"]:
            return header["trouble"]
        left, top, width, height = header["box"]
        matte = np.zeros(header["size"][::-1], np.float32)
        png = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)[..., 3] / 255
        matte[top : top + height, left : left + width] = png
        return cv2.resize(matte, (WIDE, HIGH), interpolation=cv2.INTER_LINEAR)

    def test_strokes_are_answered_roughly_and_nothing_is_stored(self, client, held, walk, studio):
        view, _, hold = held
        with listening(client, view) as socket:
            first = self.ask(socket, hold, *(("keep", k) for k in KEEP), *(("drop", d) for d in DROP))
            assert overlap(first, walk[1][8]) > 0.75
            assert whole(client.get(f"/api/projects/{view['project']['id']}").json())["revision"] == view["revision"]
            # On a piece that is there, beside a box that somebody drew.
            found = find(studio, view, hold, KEEP, DROP).piece
            matte = box_matte(4, 4, 40, 40)
            matte["pieces"].append(found.model_dump(mode="json"))
            edit(client, view, kind="change matte", hold=hold, matte=matte)
            more = self.ask(socket, hold, ("drop", stroke((92, 140), (110, 140), width=12)), piece=found.id)
            assert more[139:142, 95:107].max() < 0.5
            assert more[10:34, 10:34].min() > 0.95
            assert overlap(more[50:], walk[1][8][50:]) > 0.75
            cut = self.ask(socket, hold, ("keep", stroke((10, 20), (34, 20))), combine="cut away")
            assert cut[18:22, 12:32].max() < 0.5

    def test_what_cannot_be_answered_is_said(self, client, held):
        view, _, hold = held
        with listening(client, view) as socket:
            assert "No keep stroke" in self.ask(socket, hold, ("drop", DROP[0]))
            assert "no frame 99" in self.ask(socket, hold, ("keep", KEEP[0]), frame=99)
            assert "no longer there" in self.ask(socket, "gone", ("keep", KEEP[0]))


class TestAhead:
    def test_what_the_first_stroke_asks_is_known_before_it(self, client, held, studio, monkeypatch):
        view, url, _ = held
        assert client.post(f"{url}/look-ahead", params={"frame": 8}).status_code == 202
        deadline = time.monotonic() + 20
        while not studio.remembered.stirs.peek(next(iter(studio.remembered.stirs), None)):
            assert time.monotonic() < deadline
            time.sleep(0.02)
        monkeypatch.setattr(cutting, "stirring", lambda *_: pytest.fail("what moves was worked out again"))
        assert draw(client, url, view, "keep", KEEP[0]).status_code == 200

    def test_what_cannot_be_read_is_told_to_who_draws(self, client, held):
        _, url, _ = held
        assert client.post(f"{url}/look-ahead", params={"frame": 99}).status_code == 202
        gone = client.post(f"{url[:-3]}abc/look-ahead", params={"frame": 8})
        assert "no longer there" in gone.json()["message"]


def pick(client, url, kind, frame):
    """The job that picks, ended."""
    body = {"kind": kind, "frame": frame, "piece": PIECE, "combine": "overlap"}
    return wait_for(client, client.post(f"{url}/pick", json=body).json())


class TestPicks:
    def test_what_moves_is_found_and_the_scene_serves_the_next_hold(self, client, tmp_path, studio):
        frames, alphas, _ = passing(20, 300, 240)
        clip = make_video(tmp_path / "pass.mp4", 20, (240, 300), picture=lambda n, w, h: frames[n])
        view, url, hold = hold_frame(client, clip, 9)
        done = pick(client, url, "mover", 9)
        assert done["state"] == "done", done["message"]
        (piece,) = matte_of(client, url)
        assert (piece["id"], piece["kind"], piece["combine"]) == (PIECE, "mover", "overlap")
        assert overlap(alpha_at(client, piece["raster"]), alphas[9]) > 0.88
        found = find(studio, view, hold, kind="mover", frame=12).piece
        assert overlap(carving.alpha_of(studio.library, found.raster), alphas[12]) > 0.88
        assert len(studio.remembered.scenes) == 1

    def test_a_person_is_looked_for_where_one_was_found_a_little_before(self, client, held, studio, monkeypatch):
        view, _, hold = held
        edit(client, view, kind="change matte", hold=hold, matte=box_matte(30, 20, 130, 100))
        asked = []

        def nobody(picture, near=None, stirs=None):
            asked.append(near)
            raise Refusal("No person was found in this frame.")

        monkeypatch.setattr(cutting, "pick_person", nobody)
        monkeypatch.setattr(carving, "ANSWERED", 3)
        for frame in (8, 11, 12):
            with pytest.raises(Refusal, match="No person"):
                find(studio, view, hold, kind="person", frame=frame)
        assert [near is not None for near in asked] == [True, True, False]
        assert asked[1][60, 80] == 1
        assert asked[1][10, 10] == 0

    def test_nobody_and_nothing_are_said(self, client, project_still):
        _, url, _ = project_still
        person = pick(client, url, "person", 3)
        assert (person["state"], "No person" in person["message"]) == ("failed", True)
        mover = pick(client, url, "mover", 3)
        assert (mover["state"], "Nothing moves" in mover["message"]) == ("failed", True)
        assert "there is none yet" in pick(client, url, "difference", 3)["message"]
        assert matte_of(client, url) == []


@pytest.fixture
def project_still(client, tmp_path):
    """Footage in which nothing moves."""
    _, _, scenes = passing(10)
    clip = make_video(tmp_path / "still.mp4", 10, (120, 160), picture=lambda n, w, h: scenes[0])
    return hold_frame(client, clip, 3)


class TestFiles:
    def carved(self, client, held):
        view, url, hold = held
        return edit(client, view, kind="change matte", hold=hold, matte=box_matte(30, 20, 130, 100)), url, hold

    def test_svg_goes_out_and_comes_back_the_same(self, client, held):
        _, url, _ = self.carved(client, held)
        text = client.get(f"{url}/matte.svg")
        assert "attachment" in text.headers["content-disposition"]
        back = client.post(f"{url}/pieces", params={"name": "matte.svg"}, content=text.content).json()
        assert [(n["x"], n["y"]) for n in back[0]["nodes"]] == [(30, 20), (130, 20), (130, 100), (30, 100)]
        assert pieces(text.text)[0].name == "Body"

    def test_png_goes_out_and_comes_back_the_same(self, client, held):
        view, url, hold = self.carved(client, held)
        data = client.get(f"{url}/matte.png").content
        matte = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
        assert matte.dtype == np.uint16
        assert matte.shape == (HIGH, WIDE)
        back = client.post(f"{url}/pieces", params={"name": "matte.png"}, content=data).json()
        assert (alpha_at(client, back[0]["raster"]) > 0.5).sum() == 100 * 80
        edit(client, view, kind="change matte", hold=hold, matte={"pieces": back})

    def test_files_that_are_no_matte_are_said(self, client, held):
        _, url, _ = held
        for name, data, words in (
            ("notes.txt", b"hello", "neither SVG nor a picture"),
            ("small.png", cv2.imencode(".png", np.zeros((8, 8), np.uint8))[1].tobytes(), "as large as its frame"),
            ("odd.svg", b"<svg", "SVG"),
        ):
            answer = client.post(f"{url}/pieces", params={"name": name}, content=data)
            assert answer.status_code == 400
            assert words in answer.json()["message"]

    def test_a_found_piece_becomes_paths(self, client, held, studio):
        view, url, hold = held
        found = find(studio, view, hold, KEEP, DROP).piece.model_dump(mode="json")
        shapes = client.post(f"{url}/outline", json={"piece": found}).json()
        assert shapes[0]["combine"] == "add"
        assert 8 < len(shapes[0]["nodes"]) < 120

    def test_the_shelf_keeps_a_matte_for_other_projects(self, client, held):
        view, url, hold = self.carved(client, held)
        body = {"project": view["project"]["id"], "hold": hold, "name": "Runner"}
        saved = client.post("/api/mattes", json=body).json()
        assert client.get("/api/mattes").json()[0]["name"] == "Runner"
        assert (saved["width"], saved["height"]) == (WIDE, HIGH)
        assert client.delete(f"/api/mattes/{saved['id']}").status_code == 204
        assert client.get("/api/mattes").json() == []
        assert client.delete(f"/api/mattes/{saved['id']}").status_code == 404

    def test_an_empty_matte_is_not_shelved(self, client, held):
        view, _, hold = held
        answer = client.post("/api/mattes", json={"project": view["project"]["id"], "hold": hold, "name": "x"})
        assert "nothing in this matte" in answer.json()["message"]


class TestCarry:
    def carved(self, client, held, studio):
        view, url, hold = held
        found = find(studio, view, hold, KEEP, DROP).piece.model_dump(mode="json")
        matte = {"pieces": [found], "fringe": 0.8}
        return edit(client, view, kind="change matte", hold=hold, matte=matte), url, hold

    def test_through_a_range_and_again_after_a_correction(self, client, held, walk, studio):
        view, url, hold = self.carved(client, held, studio)
        view = edit(client, view, kind="set travel", hold=hold, range=[5, 13])
        project = view["project"]["id"]
        done = wait_for(client, client.post(f"{url}/carry", json={"to": "range"}).json())
        assert done["state"] == "done", done["message"]
        assert done["result"]["frames"] == 7
        view = whole(client.get(f"/api/projects/{project}").json())
        assert sorted(int(f) for f in view["strips"][hold]) == list(range(5, 13))
        stops = {s["frame"]: s for s in view["holds"][hold]["travel"]["stops"]}
        for frame in (6, 11):
            assert overlap(alpha_at(client, stops[frame]["pieces"][0]["raster"]), walk[1][frame]) > 0.85
        # A correction sticks, and what lies beside it is carried again.
        view = edit(client, view, kind="change matte", hold=hold, frame=11, matte=box_matte(100, 50, 160, 200))
        assert view["strips"][hold]["11"] == "fixed"
        assert view["strips"][hold]["12"] == "stale"
        again = wait_for(client, client.post(f"{url}/carry", json={"to": "range"}).json())
        assert again["result"]["frames"] == 6
        view = whole(client.get(f"/api/projects/{project}").json())
        assert "stale" not in view["strips"][hold].values()
        stop = next(s for s in view["holds"][hold]["travel"]["stops"] if s["frame"] == 11)
        assert stop["pieces"][0]["kind"] == "pen"
        assert wait_for(client, client.post(f"{url}/carry", json={"to": "range"}).json())["result"]["frames"] == 0

    def test_stopped_it_goes_on_from_where_it_was(self, client, held, monkeypatch, studio):
        view, url, hold = self.carved(client, held, studio)
        edit(client, view, kind="set travel", hold=hold, range=[0, 20])
        monkeypatch.setattr("nervykite.studio.carrying.CHUNK", 3)
        job = client.post(f"{url}/carry", json={"to": "range"}).json()
        project = view["project"]["id"]
        while not (known := whole(client.get(f"/api/projects/{project}").json())["strips"][hold]) or len(known) < 4:
            pass
        client.post(f"/api/jobs/{job['id']}/cancel")
        stopped = wait_for(client, job)
        assert stopped["state"] == "cancelled"
        before = whole(client.get(f"/api/projects/{project}").json())["holds"][hold]["travel"]["stops"]
        assert 0 < len(before) < 19
        done = wait_for(client, client.post(f"{url}/carry", json={"to": "range"}).json())
        assert done["result"]["frames"] == 19 - len(before)
        after = {
            s["frame"]: s
            for s in whole(client.get(f"/api/projects/{project}").json())["holds"][hold]["travel"]["stops"]
        }
        assert all(after[s["frame"]] == s for s in before)

    def test_each_go_goes_on_from_the_last_but_not_over_a_correction(self, client, held, monkeypatch, studio):
        goes = []

        def watched(pictures, fixed, wanted, progress, person, small, trail):
            reel = Reel(small)
            ends = {k: cv2.resize(a, reel.working, interpolation=cv2.INTER_AREA) for k, a in fixed.items()}
            on = [by for by in trail if any(trail[by].is_of(reel.rgb[k], a) for k, a in ends.items())]
            goes.append((len(wanted), on))
            return carry(pictures, fixed, wanted, progress, person, small, trail)

        monkeypatch.setattr("nervykite.studio.carrying.carry", watched)
        monkeypatch.setattr("nervykite.studio.carrying.CHUNK", 4)
        view, url, hold = self.carved(client, held, studio)
        view = edit(client, view, kind="set travel", hold=hold, range=[4, 20])
        view = edit(client, view, kind="change matte", hold=hold, frame=12, matte=box_matte(100, 50, 160, 200))
        wait_for(client, client.post(f"{url}/carry", json={"to": "range"}).json())
        # 9 to 11 from both ends, 13 to 16 from the correction, 17 to 19 from there, and back from the hold to 4.
        assert goes == [(3, []), (4, []), (3, [1]), (4, [])]
        # A wider range later goes on as well.
        view = whole(client.get(f"/api/projects/{view['project']['id']}").json())
        edit(client, view, kind="set travel", hold=hold, range=[1, 20])
        wait_for(client, client.post(f"{url}/carry", json={"to": "range"}).json())
        assert goes[4:] == [(3, [-1])]

    def test_to_the_next_moment_and_to_all(self, client, held, walk, studio):
        view, url, hold = self.carved(client, held, studio)
        shot = view["holds"][hold]["shot"]
        for frame in (4, 12, 15):
            view = edit(client, view, kind="add moment", shot=shot, frame=frame)
        project = view["project"]["id"]
        assert wait_for(client, client.post(f"{url}/carry", json={"to": "next"}).json())["result"]["frames"] == 1
        view = whole(client.get(f"/api/projects/{project}").json())
        mattes = {h["frame"]: h["matte"]["pieces"] for h in view["holds"].values()}
        assert set(mattes) == {8, 12}
        assert overlap(alpha_at(client, mattes[12][0]["raster"]), walk[1][12]) > 0.85
        assert wait_for(client, client.post(f"{url}/carry", json={"to": "moments"}).json())["result"]["frames"] == 2
        view = whole(client.get(f"/api/projects/{project}").json())
        assert {h["frame"] for h in view["holds"].values()} == {4, 8, 12, 15}
        assert view["undo"] == "carry Cutout 1 to 2 moments"
        last = wait_for(client, client.post(f"{url}/carry", json={"to": "moments"}).json())
        assert "have mattes already" in last["message"]

    def test_without_a_matte_or_a_range_it_says_what_to_do(self, client, held, studio):
        view, url, hold = held
        done = wait_for(client, client.post(f"{url}/carry", json={"to": "range"}).json())
        assert "does not travel yet" in done["message"]
        edit(client, view, kind="set travel", hold=hold, range=[5, 13])
        done = wait_for(client, client.post(f"{url}/carry", json={"to": "range"}).json())
        assert "Carve it first" in done["message"]


class TestTakes:
    """Footage that cuts: frames 0 to 11 show one place, 12 to 31 another one, in which somebody walks."""

    @pytest.fixture
    def two_takes(self, client, walk, tmp_path):
        elsewhere = texture(HIGH, WIDE, (90, 70, 150), 21, 40).clip(0, 255).astype(np.uint8)
        elsewhere[60:200, 40:150] = 230
        frames = [elsewhere] * 12 + walk[0]
        clip = make_video(tmp_path / "two.mp4", 32, (WIDE, HIGH), picture=lambda n, *_: frames[n])
        return hold_frame(client, clip, 20)

    def test_who_moves_is_found_by_the_frames_of_one_take(self, client, two_takes, walk, studio):
        view, url, hold = two_takes
        assert view["shots"][view["holds"][hold]["shot"]]["cuts"] == [12]
        assert view["takes"] == {hold: [12, 32]}
        assert pick(client, url, "mover", 20)["state"] == "done"
        assert overlap(alpha_at(client, matte_of(client, url)[0]["raster"]), walk[1][8]) > 0.9
        ((_, window),) = studio.remembered.scenes
        assert window == range(12, 32)

    def test_a_matte_travels_within_one_take(self, client, two_takes):
        view, _, hold = two_takes
        body = {"revision": view["revision"], "edit": {"kind": "set travel", "hold": hold, "range": [10, 25]}}
        refused = client.post(f"/api/projects/{view['project']['id']}/edits", json=body)
        assert refused.status_code == 400
        assert "frames 12 to 31 are one take" in refused.text
        edit(client, view, kind="set travel", hold=hold, range=[12, 25])

    def test_moments_of_another_take_are_left(self, client, two_takes):
        view, url, hold = two_takes
        shot, project = view["holds"][hold]["shot"], view["project"]["id"]
        view = edit(client, view, kind="change matte", hold=hold, matte=box_matte(60, 90, 110, 200))
        view = edit(client, view, kind="add moment", shot=shot, frame=4)
        last = wait_for(client, client.post(f"{url}/carry", json={"to": "moments"}).json())
        assert "beyond a cut" in last["message"]
        edit(client, view, kind="add moment", shot=shot, frame=22)
        result = wait_for(client, client.post(f"{url}/carry", json={"to": "moments"}).json())["result"]
        assert (result["frames"], result["left"]) == (1, 1)
        view = whole(client.get(f"/api/projects/{project}").json())
        assert {h["frame"] for h in view["holds"].values()} == {20, 22}


class TestPlates:
    @pytest.fixture
    def crossing(self, client, tmp_path):
        frames, alphas, scenes = passing(20, 300, 240)
        clip = make_video(tmp_path / "pass.mp4", 20, (240, 300), picture=lambda n, w, h: frames[n])
        return (*hold_frame(client, clip, 10), alphas, scenes)

    def plate(self, client, url):
        data = client.get(f"{url}/plate.png").content
        return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)[..., ::-1]

    def test_built_from_the_shot_it_shows_the_place_behind(self, client, crossing, studio):
        view, url, hold, alphas, scenes = crossing
        done = wait_for(client, client.post(f"{url}/plate", json={"source": "shot"}).json())
        assert done["state"] == "done", done["message"]
        behind = alphas[10] > 0.5
        assert np.abs(self.plate(client, url).astype(int) - scenes[10])[behind].mean() < 6
        now = whole(client.get(f"/api/projects/{view['project']['id']}").json())
        assert now["undo"] == "set plate of Cutout 1"
        found = find(studio, view, hold, kind="difference", frame=10).piece
        assert overlap(carving.alpha_of(studio.library, found.raster), alphas[10]) > 0.9
        # It fills the hole, and lies on the ground.
        layer = now["project"]["layers"][0]["id"]
        now = edit(client, now, kind="change layer", layer=layer, source={"kind": "hold", "hold": hold, "fill": True})
        assert now["project"]["layers"][0]["source"]["fill"]
        assert now["undo"] == "fill the hole behind Cutout 1"
        now = edit(client, now, kind="add plate", hold=hold, frames=12)
        assert now["length"] == 32

    def test_where_the_matte_travels_it_sees_the_place_right_beside_somebody_who_sways(self, client, tmp_path):
        lefts = [95 + round(14 * np.sin(0.9 * n)) for n in range(16)]
        place = np.clip(texture(300, 240, (150, 140, 120), 3, 12), 0, 255).astype(np.uint8)

        def picture(n, *_):
            frame = place.copy()
            frame[90:230, lefts[n] : lefts[n] + 50] = texture(140, 50, (60, 80, 160), 4, 10).clip(0, 255)
            return frame

        clip = make_video(tmp_path / "sways.mp4", 16, (240, 300), picture=picture, options={"crf": "4"})
        view, url, hold = hold_frame(client, clip, 8)
        matte = [box_matte(left, 90, left + 50, 230) for left in lefts]
        view = edit(client, view, kind="change matte", hold=hold, matte=matte[8])
        beside = np.s_[95:225, min(lefts) : min(lefts) + 28]  # most frames show some of it

        def off():
            wait_for(client, client.post(f"{url}/plate", json={"source": "shot"}).json())
            return np.abs(self.plate(client, url).astype(int) - place)[beside].mean()

        followed = off()
        view = whole(client.get(f"/api/projects/{view['project']['id']}").json())
        view = edit(client, view, kind="set travel", hold=hold, range=[0, 16])
        for frame in [n for n in range(16) if n != 8]:
            view = edit(client, view, kind="change matte", hold=hold, frame=frame, matte=matte[frame])
        known = off()
        assert known < min(4, 0.6 * followed)

    def test_from_an_empty_frame_a_picture_and_mended(self, client, crossing):
        view, url, hold, _, scenes = crossing
        assert client.get(f"{url}/plate.png").status_code == 404
        assert client.post(f"{url}/plate/mend", json={"stroke": stroke((9, 9)), "source": "around"}).status_code == 400
        done = wait_for(client, client.post(f"{url}/plate", json={"source": "frame", "frame": 0}).json())
        assert done["state"] == "done", done["message"]
        spoilt = np.ascontiguousarray(scenes[0][..., ::-1]).copy()
        spoilt[100:120, 100:140] = (255, 0, 255)
        data = cv2.imencode(".png", spoilt)[1].tobytes()
        given = client.post(f"{url}/plate/picture", params={"name": "hut.png"}, content=data).json()
        now = whole(client.get(f"/api/projects/{view['project']['id']}").json())
        now = edit(client, now, kind="set plate", hold=hold, plate=given["plate"])
        over = stroke((96, 110), (144, 110), width=30)
        for source in ({"source": "around"}, {"source": "frame", "frame": 0}):
            made = client.post(f"{url}/plate/mend", json={"stroke": over, **source}).json()
            assert made["plate"] != given["plate"]
            shown = client.get(f"/api/rasters/{made['plate']}.png").content
            mended = cv2.imdecode(np.frombuffer(shown, np.uint8), cv2.IMREAD_COLOR)[..., ::-1]
            assert np.abs(mended[100:120, 100:140].astype(int) - scenes[0][100:120, 100:140]).mean() < 30

    def test_pictures_of_another_shape_are_said(self, client, crossing):
        _, url, *_ = crossing
        data = cv2.imencode(".png", np.zeros((100, 300, 3), np.uint8))[1].tobytes()
        answer = client.post(f"{url}/plate/picture", params={"name": "wide.png"}, content=data)
        assert "the shapes differ" in answer.json()["message"]
        answer = client.post(f"{url}/plate/picture", params={"name": "x.png"}, content=b"nothing")
        assert "cannot be read as a picture" in answer.json()["message"]

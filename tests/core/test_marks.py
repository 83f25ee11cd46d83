"""Cutting out by keep and drop strokes."""

import cv2
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.see.find import marks
from nervykite.core.see.find.strokes import draw

from .scenes import BY_RULES, DROP, KEEP, as_found, blob, composed, overlap, picture, stroke, texture


class TestMarks:
    def test_a_few_strokes_find_the_subject(self):
        frame, alpha = picture()
        assert overlap(marks.find(frame, KEEP, DROP), alpha) > 0.95

    def test_a_strokes_own_side_always_wins(self):
        frame, _ = picture()
        aside = stroke((20, 200), (40, 220), width=8)
        found = marks.find(frame, [*KEEP, aside], DROP[1:])
        assert found[draw([aside], 240, 180)].mean() > 0.9
        across = stroke((70, 120), (110, 120), width=8)
        found = marks.find(frame, KEEP[:1], [*DROP, across])
        alone = draw([across], 240, 180) & ~draw(KEEP[:1], 240, 180)
        assert found[alone].mean() < 0.1

    def test_the_thin_legs_of_somebody_small_are_found(self):
        place = texture(1280, 720, (150, 150, 140), 4)
        alpha = np.zeros((1280, 720), np.float32)
        cv2.ellipse(alpha, (360, 700), (70, 40), 0, 0, 360, 1, -1, cv2.LINE_AA)
        for x in (320, 400):
            cv2.line(alpha, (x, 720), (x - 12, 830), 1, 5, cv2.LINE_AA)
        frame = composed(alpha, texture(1280, 720, (110, 80, 60), 8), place)
        keep = [stroke((315, 700), (405, 700), width=12)]
        keep += [stroke((x - 3, 745), (x - 7, 790), width=3) for x in (320, 400)]
        drop = [stroke((250, 640), (470, 640)), stroke((250, 860), (470, 860))]
        found = marks.find(frame, keep, drop) > 0.5
        legs = (alpha > 0.5) & (np.arange(1280)[:, None] > 745)
        assert found[legs].mean() > 0.95

    def test_a_subject_that_goes_on_beyond_the_strokes_is_found_whole(self):
        alpha = np.zeros((960, 540), np.float32)
        cv2.ellipse(alpha, (270, 500), (110, 380), 0, 0, 360, 1, -1, cv2.LINE_AA)
        frame = composed(alpha, texture(960, 540, (190, 90, 60), 8), texture(960, 540, (90, 120, 150), 8))
        strokes = [stroke((270, 300), (275, 720), width=20)], [stroke((120, 500), (125, 530))]
        found = marks.find(frame, *strokes)
        assert overlap(found, alpha) > 0.98

        turns = [0, 0]
        for n, before in enumerate((None, found)):

            def counting(view, turn, n=n) -> None:
                turns[n] += 1

            again = marks.find(frame, *strokes, evidence=[*marks.MARKS, counting], before=before)
            assert overlap(again, alpha) > 0.95
        assert turns[1] < turns[0]  # what went on beyond the strokes before is not first looked for near them

    def test_a_person_finder_helps_only_if_the_strokes_agree_with_it(self):
        frame, alpha = picture()
        alone = marks.find(frame, KEEP[:1], DROP)
        helped = marks.find(frame, KEEP[:1], DROP, lambda: alpha)
        misled = marks.find(frame, KEEP[:1], DROP, lambda: 1 - alpha)
        assert overlap(helped, alpha) >= overlap(alone, alpha) - 0.01
        assert (misled == alone).all()

    def test_a_finder_that_strokes_bear_out_is_believed_about_the_rest(self):
        frame, alpha = picture()
        trousers = texture(240, 180, (90, 100, 140), 8)  # and nobody marked them
        lower = alpha * (np.arange(240)[:, None] > 125)
        frame = composed(lower, trousers, frame.astype(np.float32))
        one = [stroke((90, 85), (88, 115))]
        alone, helped, weighed = (
            overlap(marks.find(frame, one, DROP, lambda p=p: p, heard, as_found), alpha)
            for p, heard in ((None, BY_RULES), (alpha, BY_RULES), (alpha, marks.MARKS))
        )
        assert alone < 0.6
        assert min(helped, weighed) > 0.78

    def test_a_finder_that_only_half_believes_in_a_limb_is_believed_if_all_strokes_bear_it_out(self):
        frame, alpha = picture()
        sleeve = np.zeros((240, 180), np.float32)
        cv2.line(sleeve, (105, 105), (150, 60), 1, 9, cv2.LINE_AA)
        elsewhere = np.zeros_like(sleeve)  # so that the colour alone tells nothing
        elsewhere[200:, :60] = 1
        dark = np.maximum(sleeve * (1 - alpha), elsewhere)
        frame = composed(dark, texture(240, 180, (70, 70, 90), 8), frame.astype(np.float32))
        hint = np.maximum(alpha, 0.6 * sleeve)
        limb = (sleeve > 0.5) & (alpha < 0.5)
        by_rules = (marks.find(frame, KEEP, DROP, lambda p=p: p, BY_RULES) for p in (hint * 0.8, hint))
        strict, sure = (found[limb].mean() for found in by_rules)
        assert sure > 0.6 > strict
        assert marks.find(frame, KEEP, DROP, lambda: hint)[limb].mean() > 0.6  # nor does the judge speak against it

    def test_texture_tells_a_sharp_subject_from_a_blurred_place_of_its_own_colours(self):
        sharp = texture(240, 180, (150, 120, 80), 3, 26)
        sharp += np.random.default_rng(1).normal(0, 16, (240, 180, 1)).astype(np.float32)
        place = cv2.GaussianBlur(texture(240, 180, (150, 120, 80), 5, 26), (0, 0), 4)
        alpha = picture()[1]
        frame = composed(alpha, sharp, place)
        assert overlap(marks.find(frame, KEEP, DROP), alpha) > 0.8

    @pytest.mark.parametrize("seen_by_the_finder", [False, True])
    def test_a_limb_of_a_colour_that_is_seen_nowhere_else_is_the_subjects(self, seen_by_the_finder):
        body, limb = np.zeros((2, 400, 300), np.float32)
        body[140:280, 110:190] = 1
        limb[170:182, 190:226] = 1
        place = texture(400, 300, (70, 110, 160), 3)
        place[200:] = texture(200, 300, (90, 140, 90), 3)
        subject = texture(400, 300, (180, 180, 90), 3)
        subject[:, 190:] = texture(400, 110, (170, 60, 60), 3)
        frame = cv2.GaussianBlur(composed(body + limb, subject, place), (0, 0), 0.6)
        keep = [stroke((130, 160), (170, 260), (130, 260), (178, 160), width=20)]
        drop = [stroke((60, 100), (60, 330), width=14), stroke((80, 60), (220, 60), width=14)]
        hint = 0.7 * body if seen_by_the_finder else None
        found = marks.find(frame, keep, drop, lambda: hint, look=as_found) > 0.5
        assert found[limb > 0].mean() > 0.9
        assert found[(body + limb) == 0].mean() < 0.01

    def test_what_nobody_marked_is_not_the_subject(self):
        alpha = blob(240, 180, 60, 120, 40)
        twin = blob(240, 180, 140, 120, 40)
        cloth = texture(240, 180, (200, 80, 60), 3)
        frame = composed(np.maximum(alpha, twin), cloth, texture(240, 180, (120, 150, 90), 1))
        keep = [stroke((60, 95), (60, 150))]
        drop = [stroke((100, 10), (100, 230)), stroke((10, 10), (10, 230))]
        found = marks.find(frame, keep, drop)
        assert overlap(found, alpha) > 0.85
        assert found[twin > 0.9].mean() < 0.05

    @pytest.mark.parametrize(
        ("keep", "drop", "says"),
        [
            ([], [], "no marks"),
            ([stroke((500, 500), (600, 600))], [], "outside the frame"),
            ([], DROP, "No keep stroke"),
            ([stroke((500, 500), (600, 600))], DROP, "No keep stroke"),
        ],
    )
    def test_marks_that_say_nothing_are_refused(self, keep, drop, says):
        frame, _ = picture()
        with pytest.raises(Refusal, match=says):
            marks.find(frame, keep, drop)

    def test_a_single_click_is_a_stroke(self):
        mask = draw([stroke((20, 10), width=7)], 30, 40)
        assert mask[10, 20]
        assert 20 < mask.sum() < 60

    def test_strokes_scale_with_the_picture(self):
        whole, half = draw(KEEP, 240, 180), draw(KEEP, 120, 90, 0.5)
        shrunk = cv2.resize(whole.astype(np.uint8) * 255, (90, 120), interpolation=cv2.INTER_AREA) > 127
        assert overlap(half.astype(float), shrunk.astype(float)) > 0.75

"""Photos that file themselves: tags read in made-up pictures, and where each photo belongs."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from PIL import Image

from benchmarks.filing import ELSEWHERE, TRIAL, filed, photo, samples_of, tag_font
from fieldtally.core.blinding.checking import check_letter
from fieldtally.core.photos.camera import Shot, photo_of
from fieldtally.core.photos.dealing import BOARD, Dropped, Window, dealt, shifts_of
from fieldtally.core.photos.reading_tags import DigitReader, squares_in
from fieldtally.core.photos.scenes import leaf
from fieldtally.core.photos.tagged import Tag, with_tag
from fieldtally.core.photos.tags import Named, Sample, Word, clock_in, named, turned_round
from tests.depth import cells, plays

IDS = {code: f"00000000-0000-4000-8000-000000000{code}" for code in ("412", "703", "806", "908", "196")}
SAMPLES = {one: Sample(code, check_letter(code, TRIAL)) for code, one in IDS.items()}
DAY = timedelta(days=1)
T0 = datetime(2026, 5, 4, 9, tzinfo=UTC)


def square(code: str) -> str:
    return f"https://tally.tarnlane.example/s/{IDS[code]}"


def letter(code: str) -> str:
    return check_letter(code, TRIAL)


def test_a_square_names_its_sample():
    assert named([square("412")], [], SAMPLES) == Named("412", "", ("412",))
    assert named([square("412")], [Word("412", 0.99), Word(f"Check 412 {letter('412')}", 0.9)], SAMPLES).code == "412"


@pytest.mark.parametrize(
    ("squares", "words", "says"),
    [
        ([square("412"), square("703")], [], "Two tags"),
        # The square of the one is read, only the digits of the other.
        ([square("412")], [Word("703", 0.99)], "Two tags"),
        ([square("412")], [Word(f"Check 703 {letter('703')}", 0.7)], "Two tags"),
        ([f"https://x.example/s/{IDS['412'][:-3]}999"], [], "another trial"),
        ([f"https://x.example/s/{IDS['412'][:-3]}999"], [Word("412", 0.99)], "another trial"),
        ([], [], "No tag"),
        ([], [Word("555", 1.0)], "No tag"),
        ([], [Word("412", 0.9)], "may read 412"),
        # Upside down it is another sample of the trial.
        ([], [Word("806", 1.0)], "may read 806 or 908"),
        (["https://x.example/elsewhere"], [], "No tag"),
    ],
)
def test_what_speaks_against_it_is_asked(squares, words, says):
    found = named(squares, words, SAMPLES)
    assert found.code == ""
    assert says in found.says


def test_digits_count_with_their_letter_or_without_doubt():
    assert named([], [Word("412", 0.99)], SAMPLES).code == "412"
    assert named([], [Word(f"check 806{letter('806').lower()}", 0.8)], SAMPLES).code == "806"
    wrong = "A" if letter("806") != "A" else "B"
    assert named([], [Word(f"Check 806 {wrong}", 1.0)], SAMPLES).code == ""
    assert named([], [Word("196", 0.99)], SAMPLES).code == "196"
    assert turned_round("196") == "961"


def test_digits_that_another_trial_has_too_count_with_their_letter_only():
    assert named([], [Word("412", 0.99)], SAMPLES, {"412"}).code == ""
    assert named([], [Word("412", 0.99)], SAMPLES, {"412"}).may == ("412",)
    told = [Word("412", 0.99), Word(f"Check 412 {letter('412')}", 0.9)]
    assert named([], told, SAMPLES, {"412"}).code == "412"
    # Under them stands the letter of another trial.
    other = "A" if letter("412") != "A" else "B"
    assert named([], [Word("412", 0.99), Word(f"Check 412 {other}", 0.95)], SAMPLES).code == ""


def test_a_time_code_tells_its_moment():
    assert clock_in(["https://x.example/now/2026-05-04T09:00:05Z"]) == T0 + timedelta(seconds=5)
    assert clock_in(["https://x.example/now/2026-99-04T09:00:05Z", square("412")]) is None


def windows(*looks: tuple[str, int], scored=None) -> list[Window]:
    own = scored or {}
    return [
        Window(key, T0 + day * DAY - timedelta(hours=6), T0 + day * DAY + timedelta(hours=6), own.get(key))
        for key, day in looks
    ]


NOW = T0 + 40 * DAY
LOOKS = {code: windows(("d7", 7), ("d14", 14)) for code in IDS} | {BOARD: windows(("d7", 7), ("d14", 14))}


def drop(key="p", code="412", day: float | None = 7.0, **kw) -> Dropped:
    name = Named(code, "" if code else "No tag could be read in it.")
    return Dropped(key, name, None if day is None else T0 + day * DAY, **kw)


def test_a_photo_goes_to_the_look_in_whose_window_it_was_taken():
    one = dealt([drop(day=14.1)], LOOKS, NOW)[0]
    assert (one.code, one.look, one.sure, one.says) == ("412", "d14", True, "")


def test_a_little_before_or_after_a_window_is_still_that_look_where_no_other_is_near():
    minute = 1 / 1440
    assert dealt([drop(day=7.25 + 20 * minute)], LOOKS, NOW)[0].look == "d7"
    assert dealt([drop(day=7.25 + 40 * minute)], LOOKS, NOW)[0].look == ""
    hours = {"412": [Window("a", T0, T0 + timedelta(minutes=10)), Window("b", T0 + timedelta(minutes=40), T0 + DAY)]}
    both = dealt([drop(day=25 * minute)], hours, NOW)[0]
    assert (both.look, both.may_look, both.sure) == ("", ("a", "b"), False)


def test_a_look_taken_late_has_its_photos():
    own = LOOKS | {"412": windows(("d7", 7), ("d14", 14), scored={"d7": T0 + 9 * DAY})}
    assert dealt([drop(day=9.05)], own, NOW)[0].look == "d7"
    # Another sample was not scored then.
    assert not dealt([drop(code="703", day=9.05)], own, NOW)[0].sure


@pytest.mark.parametrize(
    ("photo", "says"),
    [
        (drop(day=None), "tells no moment"),
        (drop(day=10), "between looks"),
        (drop(day=41), "in the future"),
        (drop(day=-900), "before the trial began"),
        (drop(copied=True), "when it was copied"),
        (drop(code=""), "No tag"),
    ],
)
def test_what_cannot_be_told_is_asked(photo, says):
    one = dealt([photo], LOOKS, NOW)[0]
    assert not one.sure
    assert says in one.says


def test_two_stages_of_one_moment_are_asked():
    both = {"412": [*windows(("before", 7)), *windows(("after", 7))]}
    one = dealt([drop()], both, NOW)[0]
    assert not one.sure
    assert one.may_look == ("before", "after")


def test_what_was_said_by_hand_stands():
    one = dealt([drop(code="", day=None, look="d7")], LOOKS, NOW)[0]
    assert not one.sure
    one = dealt([Dropped("p", Named("", "No tag"), None, code="412", look="d7")], LOOKS, NOW)[0]
    assert one.sure
    assert dealt([Dropped("p", Named("", "No tag"), T0 + 7 * DAY, code=BOARD)], LOOKS, NOW)[0].look == "d7"


def test_one_photo_of_a_clock_puts_its_camera_right_and_no_other():
    wrong = -3 * DAY
    photos = [
        drop("a", "412", 7 - 3, camera="old"),
        drop("b", "703", 7, camera="phone"),
        Dropped("clock", Named(), T0 + 8 * DAY + wrong, camera="old", clock=T0 + 8 * DAY),
    ]
    found = {one.key: one for one in dealt(photos, LOOKS, NOW)}
    assert found["a"].look == found["b"].look == "d7"
    assert found["a"].taken == T0 + 7 * DAY
    assert found["clock"].clock
    assert not found["clock"].sure
    assert shifts_of(photos)["old"].by == 3 * DAY


def test_clocks_that_do_not_agree_are_said():
    photos = [
        drop("a", "412", 7, camera="old"),
        Dropped("1", Named(), T0, camera="old", clock=T0 + DAY),
        Dropped("2", Named(), T0 + DAY, camera="old", clock=T0 + DAY),
    ]
    one = next(one for one in dealt(photos, LOOKS, NOW) if one.key == "a")
    assert not one.sure
    assert "do not agree" in one.says


def test_like_moments_lie_together():
    photos = [drop(str(i), "", 7 + minute / 1440) for i, minute in enumerate((0, 2, 5, 30, 31))]
    assert [one.group for one in dealt([*photos, drop("x", "", None), drop("y", "", None)], LOOKS, NOW)] == [
        0, 0, 0, 1, 1, 2, 2,
    ]  # fmt: skip


@pytest.fixture(scope="module")
def reader() -> DigitReader:
    return DigitReader()


def test_a_tag_is_read_at_any_turn_and_half_hidden(reader):
    rng = np.random.default_rng(11)
    for turn, hides in cells(((0, 0.0), (130, 0.0), (180, 0.45), (275, 0.45)), ((130, 0.0), (275, 0.45))):
        tag = Tag(square("412"), "412", letter("412"), turn=turn, hides=hides)
        shot = Shot(width=2048, tilt=18, tilt_to=60)
        picture = Image.fromarray(photo_of(with_tag(leaf(12, rng), tag, tag_font()), shot, rng))
        squares = squares_in(picture)
        assert bool(squares) == (hides == 0), turn
        assert named(squares, reader.words_in(picture), SAMPLES).code == "412", turn


def test_made_up_photos_are_filed_right_or_asked_about_and_never_wrong(reader):
    rng = np.random.default_rng(20_261)
    samples, others, font = samples_of(60, rng), samples_of(60, rng, ELSEWHERE), tag_font()
    told = []
    for _ in range(plays(8, 2)):
        one = photo(samples, others, rng, font)
        found, _ = filed(one, reader, samples, others)
        assert found.code in (one.code, ""), one.kind
        told.append(found.code == one.code)
    assert sum(told) >= len(told) - 1

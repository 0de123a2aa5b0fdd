"""Photos dealt to samples and looks: by the tag in each, the moment it was taken, and what is known of the clock that told it.

Nothing is guessed: a photo is *sure* where its tag names one sample and its moment lies in one look of that sample alone.  Everything
else is asked, in groups of photos that were taken close after each other.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from fieldtally.core.photos.tags import Named

SCORED_NEAR = timedelta(hours=3)
"""A photo so close to the moment at which its sample was scored at a look belongs to that look."""
AT_THE_EDGE = timedelta(minutes=30)
"""Who photographs a board of samples begins a little before a look opens, or ends a little after it has closed."""
LIKE_MOMENT = timedelta(minutes=4)
"""Photos with a longer pause between them were taken on another occasion."""
CLOCKS_AGREE = timedelta(minutes=5)
LONG_BEFORE = timedelta(days=1)


@dataclass(frozen=True)
class Window:
    """When a ``look`` (key) of a sample is taken, UTC: planned to open and to close, and when it was ``scored``, where it was."""

    look: str
    opens: datetime
    closes: datetime
    scored: datetime | None = None


@dataclass(frozen=True)
class Dropped:
    """A photo by its ``key``: what its tag named, the moment that the file tells (None: none, ``copied``: that of the file and not of the
    photo), its ``camera`` (any name), and the moment that a clock in the picture tells.  ``code`` and ``look`` are what somebody said of
    it; a code of ``-`` is the whole board."""

    key: str
    named: Named
    taken: datetime | None
    copied: bool = False
    camera: str = ""
    clock: datetime | None = None
    code: str = ""
    look: str = ""


BOARD = "-"
_NONE: Sequence[str] = ()


@dataclass(frozen=True)
class Dealt:
    """Where a photo belongs: its ``code`` and ``look`` as far as they are known, whether it is ``sure``, else what is asked (``says``);
    when it was ``taken`` by a clock put right; whether it only shows a clock; and the ``group`` (number) of like moments it is in."""

    key: str
    code: str
    look: str
    sure: bool
    says: str
    taken: datetime | None
    clock: bool = False
    group: int = 0
    may_be: tuple[str, ...] = ()
    may_look: tuple[str, ...] = ()


@dataclass(frozen=True)
class Shift:
    """How much a ``camera``'s clock is behind (negative: ahead), and what is wrong with what its photos of a clock tell."""

    camera: str
    by: timedelta
    says: str = ""


def shifts_of(dropped: Sequence[Dropped]) -> dict[str, Shift]:
    """How far each camera's clock is off, by its photos of a clock; two of them that do not agree are said."""
    told: dict[str, list[timedelta]] = {}
    for photo in dropped:
        if photo.clock is not None and photo.taken is not None and not photo.copied:
            told.setdefault(photo.camera, []).append(photo.clock - photo.taken)
    return {
        camera: Shift(
            camera,
            offs[0],
            "Its photos of a clock do not agree: was its own clock set between them?"
            if max(offs) - min(offs) > CLOCKS_AGREE
            else "",
        )
        for camera, offs in told.items()
    }


def dealt(dropped: Sequence[Dropped], windows: Mapping[str, Sequence[Window]], now: datetime) -> list[Dealt]:
    """Where each photo belongs, in the order they were taken; ``windows`` are those of each sample (by code; ``-``: of the board)."""
    shifts = shifts_of(dropped)
    ordered = sorted(dropped, key=lambda one: (_moment(one, shifts) is None, _moment(one, shifts) or now, one.key))
    found: list[Dealt] = []
    anywhere = _all(windows)
    group, last = 0, None
    for photo in ordered:
        at = _moment(photo, shifts)
        if found and (at is None or last is None or at - last > LIKE_MOMENT) and (at, last) != (None, None):
            group += 1
        last = at
        own = windows.get(photo.code or photo.named.code, anywhere)
        found.append(_one(photo, at, group, shifts.get(photo.camera), own, now))
    return found


def _moment(photo: Dropped, shifts: Mapping[str, Shift]) -> datetime | None:
    if photo.taken is None:
        return None
    shift = None if photo.copied else shifts.get(photo.camera)
    return photo.taken + shift.by if shift else photo.taken


def _one(
    photo: Dropped,
    at: datetime | None,
    group: int,
    shift: Shift | None,
    own: Sequence[Window],
    now: datetime,
) -> Dealt:
    code = photo.code or photo.named.code
    if photo.clock is not None and not code:
        return Dealt(photo.key, "", "", False, "", at, clock=True, group=group)
    asks = [] if code else [photo.named.says]
    if photo.look:
        look, looks, why = photo.look, _NONE, ""
    else:
        look, looks, why = _look_at(photo, at, own, shift, now)
    if why:
        asks.append(why)
    return Dealt(
        photo.key,
        code,
        look,
        bool(code and look and not asks),
        " ".join(asks),
        at,
        group=group,
        may_be=photo.named.may,
        may_look=tuple(looks),
    )


def _all(windows: Mapping[str, Sequence[Window]]) -> list[Window]:
    """When each look was open for any sample."""
    by_look: dict[str, list[Window]] = {}
    for own in windows.values():
        for window in own:
            by_look.setdefault(window.look, []).append(window)
    return [Window(look, min(w.opens for w in own), max(w.closes for w in own)) for look, own in by_look.items()]


def _open_at(at: datetime, own: Sequence[Window], edge: timedelta) -> list[str]:
    return list(dict.fromkeys(w.look for w in own if w.opens - edge <= at <= w.closes + edge))


def _look_at(
    photo: Dropped, at: datetime | None, own: Sequence[Window], shift: Shift | None, now: datetime
) -> tuple[str, Sequence[str], str]:
    """The look, those it may be, and what is asked."""
    if at is None:
        return "", (), "The file tells no moment: say at which look it was taken."
    if shift is not None and shift.says:
        return "", (), shift.says
    if at > now + CLOCKS_AGREE:
        return "", (), "It is dated in the future: is the camera's clock wrong?"
    if own and at < min(w.opens for w in own) - LONG_BEFORE:
        return "", (), "It is dated before the trial began: is the camera's clock wrong?"
    near = list(dict.fromkeys(w.look for w in own if w.scored is not None and abs(w.scored - at) <= SCORED_NEAR))
    looks = near or _open_at(at, own, timedelta(0)) or _open_at(at, own, AT_THE_EDGE)
    if photo.copied:
        said = "The file tells when it was copied, not when the photo was taken: say at which look that was."
        return (looks[0] if len(looks) == 1 else ""), looks, said
    if len(looks) == 1:
        return looks[0], looks, ""
    if looks:
        return "", looks, "Several looks were open then: say which it is."
    return "", (), "It was taken between looks: say to which it belongs, or put the camera's clock right."

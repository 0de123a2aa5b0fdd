"""Sounds and pictures that are put before a panel: read, made ready, and handed out as copies that tell nothing."""

from __future__ import annotations

import io
from functools import lru_cache
from uuid import UUID

import numpy as np
import soundfile
from PIL import Image

from fieldtally.core.panels import pictures, sounds
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.serving import LETTERS
from fieldtally.core.panels.sounds import Sound
from fieldtally.core.problems import Problem, Refused
from fieldtally.server.answers import Declined
from fieldtally.server.measuring.pictures import picture_in
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.models import Assessor, Material, Panel, Practice, PracticeSet, Serving

LARGEST_FILE = 25_000_000
LONGEST_NAME = 200


def sound_in(sent: bytes) -> Sound:
    """The sound in a file: WAV, FLAC, OGG or MP3.

    :raises Declined: 422 at ``file``: it is too large, empty, no sound, too short or silent.
    """
    if len(sent) > LARGEST_FILE:
        raise _refused(f"This file is larger than {LARGEST_FILE // 1_000_000} MB; half a minute of sound is enough.")
    if not sent:
        raise _refused("This file is empty.")
    try:
        with soundfile.SoundFile(io.BytesIO(sent)) as file:
            if not 4_000 <= file.samplerate <= 384_000:
                raise _refused("This sound has a rate that cannot be played.")
            frames = round(min(sounds.LONGEST, file.frames / file.samplerate) * file.samplerate)
            read = file.read(frames, dtype="float64", always_2d=True)
            rate = file.samplerate
    except (soundfile.LibsndfileError, RuntimeError, ValueError) as error:
        raise _refused("This is no sound that can be read here: send a WAV, FLAC, OGG or MP3 file.") from error
    if not len(read):
        raise _refused("This sound is empty.")
    try:
        return sounds.made_ready(Sound(read, rate))
    except Refused as refusal:
        raise Declined(422, *refusal.problems) from refusal


def _refused(says: str) -> Declined:
    return Declined(422, Problem("file", says))


def keep_material(panel: Panel, thing: str, sent: bytes, name: str, stimulus: int = 0) -> None:
    """Keep a sound or picture for a thing of the panel, and for the stimulus of that number; one that was there before is replaced.

    :raises Declined: 409 where the panel has begun; 422 where it takes none, or the file cannot be read.
    """
    plan = panel_plan(panel)
    if panel.begun_at is not None:
        raise Declined(409, "This panel has begun; what is put before people was fixed with that.")
    if plan.material == "cups":
        raise Declined(422, Problem("material", "This panel is of cups; choose sounds or pictures first."))
    if thing not in plan.things:
        raise Declined(422, Problem("thing", "This is not among what is put before people."))
    if not 0 <= stimulus < max(1, len(plan.stimuli)):
        raise Declined(422, Problem("stimulus", "This is not among what it is asked over."))
    seconds = None
    if plan.material == "sounds":
        sound = sound_in(sent)
        content, seconds = _stored(sound), sound.seconds
    else:
        content = picture_in(sent).full
    Material.objects.update_or_create(
        panel=panel,
        thing=thing,
        stimulus=stimulus,
        defaults={"content": content, "name": name.strip()[:LONGEST_NAME], "seconds": seconds},
    )


def _stored(sound: Sound) -> bytes:
    written = io.BytesIO()
    soundfile.write(written, sound.samples, sound.rate, format="WAV", subtype="PCM_24")
    return written.getvalue()


def missing_material(panel: Panel, plan: PanelPlan) -> list[Problem]:
    """What has no sound or picture yet, as a fault of the plan."""
    if plan.material == "cups":
        return []
    kept = set(Material.objects.filter(panel=panel).values_list("thing", "stimulus"))
    wanted = [(thing, over) for thing in plan.things for over in range(max(1, len(plan.stimuli)))]
    without = sum(one not in kept for one in wanted)
    word = plan.material.removesuffix("s")
    return (
        [Problem("material", f"{without} of them {'has' if without == 1 else 'have'} no {word} yet.")]
        if without
        else []
    )


def cup_of(serving: Serving, place: int) -> tuple[bytes, str]:
    """What is played or shown for the cup at ``place`` of a set, as a copy of its own, and its kind.

    :raises Declined: 404 where there is none.
    """
    panel = serving.assessor.panel
    plan = panel_plan(panel)
    if plan.material == "cups" or not 0 <= place < len(serving.order):
        raise Declined(404, "There is nothing to play or show here.")
    at = LETTERS.index(serving.order[place])
    rng = np.random.default_rng([int(panel.seed, 16), serving.pk.int, place])
    if plan.material == "sounds":
        return sounds.copy_of(_ready_sounds(panel.pk, plan.things, serving.stimulus)[at], rng), "audio/wav"
    return pictures.copy_of(_ready_pictures(panel.pk, plan.things, serving.stimulus)[at], rng), "image/png"


def known_of(assessor: Assessor, stimulus: int) -> tuple[bytes, str]:
    """What A is over a stimulus, played or shown by name before it is asked whether it is A; a copy of its own, and its kind.

    :raises Declined: 404 where nothing is shown by name.
    """
    panel = assessor.panel
    plan = panel_plan(panel)
    shown = plan.material != "cups" and plan.method == "a-not-a" and panel.begun_at is not None
    if not shown or not 0 <= stimulus < max(1, len(plan.stimuli)):
        raise Declined(404, "There is nothing to play or show here.")
    rng = np.random.default_rng([int(panel.seed, 16), assessor.pk.int, stimulus])
    if plan.material == "sounds":
        return sounds.copy_of(_ready_sounds(panel.pk, plan.things, stimulus)[0], rng), "audio/wav"
    return pictures.copy_of(_ready_pictures(panel.pk, plan.things, stimulus)[0], rng), "image/png"


def _contents(panel: UUID, things: tuple[str, ...], stimulus: int) -> list[bytes]:
    kept = dict(Material.objects.filter(panel_id=panel, stimulus=stimulus).values_list("thing", "content"))
    return [bytes(kept[thing]) for thing in things]


@lru_cache(maxsize=8)
def _ready_sounds(panel: UUID, things: tuple[str, ...], stimulus: int) -> tuple[Sound, ...]:
    """Asked only once a panel has begun, when nothing changes any more."""
    read = [
        soundfile.read(io.BytesIO(one), dtype="float64", always_2d=True) for one in _contents(panel, things, stimulus)
    ]
    return sounds.matched([Sound(samples, rate) for samples, rate in read])


@lru_cache(maxsize=8)
def _ready_pictures(panel: UUID, things: tuple[str, ...], stimulus: int) -> tuple[Image.Image, ...]:
    return pictures.matched([Image.open(io.BytesIO(one)) for one in _contents(panel, things, stimulus)])


def check_material(panel: Panel, plan: PanelPlan) -> None:
    """Match the sounds once, so that what cannot be matched is known before anybody listens.

    :raises Declined: 422 at ``material``.
    """
    if plan.material != "sounds":
        return
    try:
        for stimulus in range(max(1, len(plan.stimuli))):
            _ready_sounds(panel.pk, plan.things, stimulus)
    except Refused as refusal:
        raise Declined(422, Problem("material", refusal.problems[0].says)) from refusal


def practice_cup(practice: Practice, one: PracticeSet, place: int) -> tuple[bytes, str]:
    """What is played or shown in a set of practice.

    :raises Declined: 404 where there is nothing.
    """
    if practice.source == "cups" or not 0 <= place < len(one.order):
        raise Declined(404, "There is nothing to play or show here.")
    other = one.order[place] == "B"
    rng = np.random.default_rng([int(practice.seed, 16), one.place, place])
    if practice.source == "sounds":
        return sounds.copy_of(_shipped_sounds(practice.step)[other], rng), "audio/wav"
    return pictures.copy_of(pictures.shipped_picture(other=other, step=practice.step), rng), "image/png"


@lru_cache(maxsize=5)
def _shipped_sounds(step: int) -> tuple[Sound, ...]:
    return sounds.matched([sounds.shipped_sound(other=other, step=step) for other in (False, True)])

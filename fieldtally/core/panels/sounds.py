"""Sounds made ready to be compared by ear: alike in rate, channels, length and loudness, so that nothing but the sound itself tells.

Loudness follows ITU-R BS.1770-4 (gated, in LUFS).  All are turned down to the quietest, never up, so that nothing clips.
"""

from __future__ import annotations

import io
import math
import wave
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import pyloudnorm
from scipy.signal import resample_poly

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.problems import Refused

RATE = 48_000
SHORTEST, LONGEST = 0.5, 30.0
FADE = 0.01
HEADROOM = 10 ** (-1 / 20)


@dataclass(frozen=True)
class Sound:
    """Samples between −1 and 1, of shape (frames, channels), at ``rate`` frames a second."""

    samples: Floats
    rate: int

    @property
    def seconds(self) -> float:
        """How long it lasts."""
        return len(self.samples) / self.rate


def made_ready(sound: Sound) -> Sound:
    """The sound at 48 kHz with one or two channels, cut to half a minute.

    :raises Refused: it is too short, or silent.
    """
    if sound.seconds < SHORTEST:
        raise Refused(
            f"This sound lasts {sound.seconds:.2g} s; at least {SHORTEST} s are needed to hear anything.", "file"
        )
    kept = np.nan_to_num(sound.samples[: round(LONGEST * sound.rate), :2].astype(np.float64))
    if float(np.abs(kept).max()) < 1e-4:
        raise Refused("This sound is silent.", "file")
    if sound.rate != RATE:
        shared = math.gcd(sound.rate, RATE)
        kept = np.asarray(resample_poly(kept, RATE // shared, sound.rate // shared, axis=0), dtype=np.float64)
    return Sound(kept, RATE)


def loudness(sound: Sound) -> float:
    """Its loudness in LUFS."""
    return float(pyloudnorm.Meter(sound.rate).integrated_loudness(sound.samples))


def matched(sounds: Sequence[Sound]) -> tuple[Sound, ...]:
    """The sounds, made ready before, as long as the shortest, with as many channels as the one with fewest, and as loud as the quietest;
    faded at both ends, so that they may be played round and round.

    >>> tone = np.sin(np.arange(RATE) / 20)[:, None]
    >>> one, two = matched([Sound(tone, RATE), Sound(tone / 3, RATE)])
    >>> bool(np.allclose(one.samples, two.samples, atol=1e-6))
    True
    """
    frames = min(len(one.samples) for one in sounds)
    channels = min(one.samples.shape[1] for one in sounds)
    cut = [
        one.samples[:frames].mean(axis=1, keepdims=True) if channels == 1 else one.samples[:frames] for one in sounds
    ]
    loud = [loudness(Sound(one, RATE)) for one in cut]
    if not all(math.isfinite(one) for one in loud):
        raise Refused("One of these sounds is all but silent in the part that they share.", "file")
    level = min(loud)
    gains = [10 ** ((level - own) / 20) for own in loud]
    peak = max(float(np.abs(one * gain).max()) for one, gain in zip(cut, gains, strict=True))
    shared = min(1.0, HEADROOM / peak)
    ramp = np.clip(np.minimum(np.arange(frames), np.arange(frames)[::-1]) / (FADE * RATE), 0, 1)[:, None]
    return tuple(Sound(one * gain * shared * ramp, RATE) for one, gain in zip(cut, gains, strict=True))


def copy_of(sound: Sound, rng: np.random.Generator) -> bytes:
    """The sound as a WAV file with 16 bits, under a dither of its own: two copies of one sound never have the same bytes, and those of two
    matched sounds are of the same size."""
    dither = rng.triangular(-1, 0, 1, sound.samples.shape)
    whole = np.clip(np.round(sound.samples * 32_767 + dither), -32_768, 32_767).astype("<i2")
    written = io.BytesIO()
    with wave.open(written, "wb") as file:
        file.setnchannels(sound.samples.shape[1])
        file.setsampwidth(2)
        file.setframerate(sound.rate)
        file.writeframes(whole.tobytes())
    return written.getvalue()


def shipped_sound(*, other: bool, step: int) -> Sound:
    """A soft chord of four seconds, and the ``other`` one, in which one tone is off; ``step`` (1–5) says how far."""
    at = np.arange(4 * RATE) / RATE
    off = 2 ** ((4, 8, 16, 32, 64)[step - 1] / 1200) if other else 1.0
    tones = ((220.0, 0.3), (277.18 * off, 0.24), (329.63, 0.2), (440.0, 0.12))
    wobble = 1 + 0.1 * np.sin(2 * np.pi * 0.5 * at)
    chord = sum((loud * np.sin(2 * np.pi * tone * at) for tone, loud in tones), np.zeros_like(at))
    return Sound((chord * wobble)[:, None], RATE)

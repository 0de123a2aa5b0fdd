"""Reading a picture that somebody sent: checked, turned upright, bounded and written anew, so that nothing but what is seen is kept.

Where it was taken, with which device and when, comments, previews and anything hidden behind the picture do not survive this.
"""

from __future__ import annotations

import hashlib
import io
import re
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta, timezone, tzinfo

import numpy as np
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError

from fieldtally.core.photos.light import Light, light_of
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined

LARGEST_FILE = 25_000_000
LONGEST_SIDE = 12_000
MOST_PIXELS = 60_000_000
KEPT_SIDE, SMALL_SIDE = 2_048, 360
QUALITY, SMALL_QUALITY = 86, 78
FORMATS = ("JPEG", "PNG", "WEBP")
SIGNS = (b"\xff\xd8\xff", b"\x89PNG\r\n\x1a\n", b"RIFF")
ZIP_END = b"PK\x05\x06"
EXIF, MAKER, MODEL, SERIAL = 0x8769, 0x010F, 0x0110, 0xA431
TAKEN, DIGITISED, TAKEN_OFFSET = 0x9003, 0x9004, 0x9011
OFFSET = re.compile(r"^([+-])(\d\d):(\d\d)$")
OTHER = re.compile(rb"<script|<\?php|<!doctype html|<html[\s>]|<iframe", re.IGNORECASE)


@dataclass(frozen=True)
class Picture:
    """A picture as it is kept: JPEG in two sizes, its width and height in pixels, and the light it was taken in."""

    full: bytes
    small: bytes
    width: int
    height: int
    light: Light


def picture_in(sent: bytes) -> Picture:
    """The picture in a file.

    :raises Declined: 422 at ``file``: it is too large, no picture of a known kind, damaged, or something else besides a picture.
    """
    if len(sent) > LARGEST_FILE:
        raise _refused(f"This file is larger than {LARGEST_FILE // 1_000_000} MB; take it smaller.")
    if not sent:
        raise _refused("This file is empty.")
    if not sent.startswith(SIGNS):
        raise _refused("This is no picture that can be read here, whatever its name says: send a JPEG, PNG or WebP.")
    if ZIP_END in sent[-70_000:] or sent[:1024].find(b"%PDF-") >= 0 or OTHER.search(sent):
        raise _refused("This file is a picture and something else besides; such a file is not taken.")
    try:
        with Image.open(io.BytesIO(sent), formats=FORMATS) as opened:
            width, height = opened.size
            if max(width, height) > LONGEST_SIDE or width * height > MOST_PIXELS:
                raise _refused(
                    f"This picture has {width:,} × {height:,} pixels; at most {LONGEST_SIDE:,} a side and "
                    f"{MOST_PIXELS // 1_000_000} million in all can be taken."
                )
            if min(width, height) < 16:
                raise _refused(f"This picture has only {width} × {height} pixels; there is nothing to see on it.")
            opened.draft("RGB", (KEPT_SIDE, KEPT_SIDE))
            kept = _plain(opened)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise _refused("This picture is damaged and cannot be read.") from error
    kept.thumbnail((KEPT_SIDE, KEPT_SIDE), Image.Resampling.LANCZOS)
    small = kept.copy()
    small.thumbnail((SMALL_SIDE, SMALL_SIDE), Image.Resampling.LANCZOS)
    return Picture(
        _jpeg(kept, QUALITY), _jpeg(small, SMALL_QUALITY), kept.width, kept.height, light_of(np.asarray(small))
    )


@dataclass(frozen=True)
class Taken:
    """What a file tells of its photo: the moment (UTC; None: nothing), and a name that tells photos of one camera apart."""

    at: datetime | None
    camera: str


def taken_in(sent: bytes, zone: tzinfo) -> Taken:
    """When a photo was taken, by its file; a moment without a zone of its own counts in ``zone``.  Nothing else of it is looked at."""
    try:
        with Image.open(io.BytesIO(sent), formats=FORMATS) as opened:
            told = opened.getexif()
            own = told.get_ifd(EXIF)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return Taken(None, "")
    made = "|".join(str(told.get(tag, "")) for tag in (MAKER, MODEL)) + "|" + str(own.get(SERIAL, ""))
    camera = hashlib.sha256(made.encode()).hexdigest()[:12] if made.strip("|") else ""
    when, off = str(own.get(TAKEN) or own.get(DIGITISED) or ""), OFFSET.match(str(own.get(TAKEN_OFFSET) or ""))
    if off:
        minutes = (int(off[2]) * 60 + int(off[3])) * (-1 if off[1] == "-" else 1)
        zone = timezone(timedelta(minutes=minutes))
    try:
        at = datetime.strptime(when.strip("\0 "), "%Y:%m:%d %H:%M:%S").replace(tzinfo=zone)
    except ValueError:
        return Taken(None, camera)
    return Taken(at.astimezone(UTC), camera)


def opened_large(sent: bytes, side: int) -> Image.Image:
    """A picture that :func:`picture_in` took, upright and grey, at least ``side`` pixels a side where it has as many."""
    with Image.open(io.BytesIO(sent), formats=FORMATS) as opened:
        opened.draft("L", (side, side))
        return ImageOps.exif_transpose(opened).convert("L")


def _refused(says: str) -> Declined:
    return Declined(422, Problem("file", says))


def _plain(opened: Image.Image) -> Image.Image:
    """The pixels alone, upright, on white where they were transparent, in sRGB."""
    profile = opened.info.get("icc_profile")
    upright = ImageOps.exif_transpose(opened)
    if upright.mode in ("RGBA", "LA", "PA") or "transparency" in upright.info:
        over = Image.new("RGB", upright.size, "white")
        seen = upright.convert("RGBA")
        over.paste(seen, mask=seen.getchannel("A"))
        upright = over
    if profile and upright.mode == "RGB":
        try:
            own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            upright = (
                ImageCms.profileToProfile(upright, own, ImageCms.createProfile("sRGB"), outputMode="RGB") or upright
            )
        except (ImageCms.PyCMSError, OSError):
            pass  # A profile that cannot be read is as good as none.
    plain = Image.new("RGB", upright.size)
    plain.paste(upright.convert("RGB"))
    return plain


def _jpeg(picture: Image.Image, quality: int) -> bytes:
    written = io.BytesIO()
    picture.save(written, "JPEG", quality=quality, optimize=True)
    return written.getvalue()

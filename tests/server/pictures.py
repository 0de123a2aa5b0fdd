"""Pictures to send: good ones, and ones that are something else."""

import io

import numpy as np
from PIL import Image


def picture(form="PNG", size=(120, 80), *, tint=(1.0, 1.0, 1.0), exif=None, seed=1) -> bytes:
    """A picture of noise on grey, in light of that tint (red, green, blue)."""
    pixels = np.random.default_rng(seed).integers(150, 200, (size[1], size[0], 3)) * np.array(tint)
    out = io.BytesIO()
    extra = {"exif": exif} if exif else {}
    Image.fromarray(pixels.clip(0, 255).astype(np.uint8)).save(out, form, **extra)
    return out.getvalue()


def wide(width=30_000) -> bytes:
    """A small file of a huge picture."""
    out = io.BytesIO()
    Image.new("1", (width, 20)).save(out, "PNG")
    return out.getvalue()

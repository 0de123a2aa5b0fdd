"""Reading squares and digits in a picture, by libraries made for it: zxing-cpp, and RapidOCR, whose models come with it."""

from __future__ import annotations

from typing import Any

import numpy as np
from PIL import Image, ImageFilter

from fieldtally.core.photos.colour import Reals
from fieldtally.core.photos.tags import BARE, CHECKED, WORTH_ASKING, Word

WIDEST = 4_096
"""Squares are looked for in a picture of up to so many pixels a side."""
DIGITS_AT = 1_280
"""Digits are large on a tag: they are read in a picture made so small."""
LEANS = (45.0, 65.0)
"""Where no code is read in a picture it is turned by so many degrees, and read again."""
LARGE = 100.0
"""Height in pixels to which digits are enlarged, so that the line under them can be read."""
MOST = 2_000
"""So many pixels a side, at most, has what is looked at once more."""
Box = Reals
SHARPER = ImageFilter.UnsharpMask(radius=2, percent=200, threshold=0)


def squares_in(picture: Image.Image) -> list[str]:
    """What the square codes (QR) in a ``picture`` say, each once; one that is soft is sharpened and tried again."""
    import zxingcpp

    grey = picture.convert("L")
    grey.thumbnail((WIDEST, WIDEST), Image.Resampling.BILINEAR)
    for tried in (grey, grey.filter(SHARPER)):
        found = zxingcpp.read_barcodes(
            np.asarray(tried), formats=zxingcpp.BarcodeFormats(zxingcpp.BarcodeFormat.QRCode)
        )
        if found:
            return list(dict.fromkeys(str(one.text) for one in found))
    return []


class DigitReader:
    """Reads the words in pictures, on so many ``threads``.  It holds some hundred megabytes while it lives."""

    def __init__(self, threads: int = 1) -> None:
        from rapidocr_onnxruntime import RapidOCR

        self._engine: Any = RapidOCR(intra_op_num_threads=threads, inter_op_num_threads=1)

    def words_in(self, picture: Image.Image, *, again: bool = True) -> list[Word]:
        """The words in a ``picture``, and the check lines under the codes in it; where no code is among them, and ``again``, what can be
        read of codes in it as it is turned."""
        small = picture.convert("RGB")
        small.thumbnail((DIGITS_AT, DIGITS_AT), Image.Resampling.LANCZOS)
        found = self._found(small)
        shown, larger = picture.convert("RGB"), picture.width / small.width
        for lean in LEANS if again else ():
            if any(_like_a_code(word) for _, word in found):
                break
            shown, larger = small.rotate(lean, Image.Resampling.BICUBIC, expand=True, fillcolor=(128, 128, 128)), 1.0
            shown.thumbnail((DIGITS_AT, DIGITS_AT), Image.Resampling.LANCZOS)
            found = [one for one in self._found(shown) if _like_a_code(one[1]) or CHECKED.match(one[1].text.strip())]
        # The letter under the digits is too small at this size: what lies round them is looked at once more, upright and large.
        near = [
            word
            for box, bare in found
            if BARE.match(bare.text.strip()) and not any(CHECKED.match(word.text.strip()) for _, word in found)
            for _, word in self._found(_upright(shown, box * larger))
        ]
        return [word for _, word in found] + [word for word in near if CHECKED.match(word.text.strip())]

    def _found(self, picture: Image.Image) -> list[tuple[Box, Word]]:
        # The engine wants blue first.
        found, _ = self._engine(np.ascontiguousarray(np.asarray(picture)[:, :, ::-1]))
        return [(np.asarray(box, float), Word(str(text), float(sure))) for box, text, sure in found or ()]


def _like_a_code(word: Word) -> bool:
    return bool(BARE.match(word.text.strip())) and word.sure >= WORTH_ASKING


def _upright(picture: Image.Image, box: Box) -> Image.Image:
    """What lies over and under the word in ``box`` (4, 2: corners from the upper left round), its line level and enlarged."""
    across, down = box[1] - box[0], box[3] - box[0]
    high = float(np.hypot(*down)) or 1.0
    scale = LARGE / high
    corners = [
        box[0] - across / 3 - down,
        box[3] - across / 3 + down,
        box[2] + across / 3 + down,
        box[1] + across / 3 - down,
    ]
    wide, tall = (min(MOST, max(1, round(float(np.hypot(*(corners[end] - corners[0]))) * scale))) for end in (3, 1))
    quad = [float(x) for corner in corners for x in corner]
    return picture.transform((wide, tall), Image.Transform.QUAD, quad, Image.Resampling.BICUBIC)

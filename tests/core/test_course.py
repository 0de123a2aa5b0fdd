"""The picture of a whole trial: what is written above its line is read, however near moments lie."""

import re

import pytest

from fieldtally.core.charts.course import Stop, course_svg

TEXT = re.compile(r'<text x="([\d.]+)" y="([\d.]+)" text-anchor="(\w+)"[^>]*>(sealed|start|key opened)</text>')
WIDE = {"sealed": 40.0, "start": 30.0, "key opened": 66.0}


@pytest.mark.parametrize(
    ("sealed", "opened"), [(0.0, 0.0), (0.0, 30.0), (-5_000.0, 20_000.0), (1.0, 9_000.0), (-1.0, 1.0)]
)
def test_moments_are_told_inside_the_picture_and_never_over_each_other(sealed, opened):
    drawn = course_svg([Stop("Day 7", 10_080.0, 10_100.0)], [], sealed=sealed, opened=opened, title="A trial")
    found = [(float(x), float(y), anchor, word) for x, y, anchor, word in TEXT.findall(drawn)]
    assert len(found) == 3
    boxes = []
    for x, y, anchor, word in found:
        left = x - {"start": 0.0, "middle": 0.5, "end": 1.0}[anchor] * WIDE[word]
        assert left >= 0 and left + WIDE[word] <= 640 and y >= 11
        boxes.append((left, left + WIDE[word], y))
    for i, one in enumerate(boxes):
        for other in boxes[i + 1 :]:
            assert abs(one[2] - other[2]) >= 11 or one[1] <= other[0] or other[1] <= one[0], found

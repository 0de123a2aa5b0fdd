"""Short honest plans to begin with, as somebody would tell them: words to be changed, read like any others."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Pattern:
    """What it is asked for, and how it would be told."""

    name: str
    text: str


PATTERNS: tuple[Pattern, ...] = (
    Pattern(
        "Which lasts longest?",
        "Which lasts longest: hemp, nylon or jute? Jute is what we use now. 8 lengths each. "
        "State graded 0 to 5 every 2 weeks for 12 weeks. Load in kg after 12 weeks.",
    ),
    Pattern(
        "Which grows best?",
        "Which grows best: nettle tea, seaweed or plain water as the control? 8 pots each. Height in cm weekly for 6 weeks. "
        "Leaves counted after 6 weeks.",
    ),
    Pattern(
        "Which cleans best?",
        "Which cleans best: soap, soda or plain water as the control? 6 cloths each. Stain left in percent at the start and after 1, 5 and "
        "10 washes.",
    ),
    Pattern(
        "Does it do anything at all?",
        "Does rooting powder do anything? 12 cuttings with rooting powder and 12 without. Rooted or not after 3 weeks and 6 weeks, "
        "scored by someone who does not know which is which.",
    ),
    Pattern(
        "Which is cheapest for the job?",
        "Which does the job for less: the cheap wax or the dear wax? The dear wax is what we use now. 8 boards each. "
        "Water taken up in g after 1, 7 and 28 days.",
    ),
)

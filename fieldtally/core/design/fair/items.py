"""The items of the fairness list, in the order in which they are told."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from fieldtally.core.design.fair import judges
from fieldtally.core.design.fair.judges import Judged, Known
from fieldtally.core.design.plan import Plan


@dataclass(frozen=True)
class FairItem:
    """An item of the list: its question, why it matters, what can no longer be claimed without it, its judge, and what it says by itself
    of a plan that does without it (``no``): a reason that needs no essay."""

    key: str
    title: str
    why: str
    limit: str
    judge: Callable[[Plan, Known], Judged]
    no: str
    promised: bool = False
    """Whether people may do otherwise than the plan has it, so that it can be given up though the plan keeps it."""


ITEMS: tuple[FairItem, ...] = (
    FairItem(
        "control",
        "A control is among them",
        "Without one, things that would have happened anyway look like the work of a treatment.",
        "That anything works at all: there was no control, so only which of these did better than the others.",
        judges.control,
        "no control is among them",
    ),
    FairItem(
        "placebo",
        "A placebo stands in for the carrier",
        "Water, oil or handling can work by itself; a sham with the same handling shows how much.",
        "That it was the ingredient and not its carrier or the handling: no placebo was given.",
        judges.placebo,
        "no placebo is given",
    ),
    FairItem(
        "replicates",
        "Enough replicates",
        "Only the differences between samples treated alike show how much luck there is.",
        "That it was more than luck: there were too few samples of each.",
        judges.replicates,
        "there are no more of them",
    ),
    FairItem(
        "unit",
        "The true unit is counted",
        "Ten fish in one tank share its luck: they are one sample. Counting them as ten makes chance look like proof.",
        "The strength of it: things that shared one treatment may have been counted as if they were independent.",
        judges.unit,
        "several share one treatment",
    ),
    FairItem(
        "one_change",
        "One thing changed, or a package declared",
        "If two things change at once, nobody can say which of them did it.",
        "Which of the changes did it: several things differed at once.",
        judges.one_change,
        "they differ in more than one thing",
    ),
    FairItem(
        "procedure",
        "As the label says, or one procedure for all",
        "The maker's dose asks how good a product is in use; the same dose for all asks how good the substance is.",
        "How these would do by their makers' instructions, or at equal doses: neither was kept to.",
        judges.procedure,
        "each is used as it comes",
    ),
    FairItem(
        "exposure",
        "Equal exposure",
        "What has been out longer has had more time to fail, or to work.",
        "That it was the treatment and not the time it had: exposures were not equal.",
        judges.exposure,
        "not all are watched for the same time",
        promised=True,
    ),
    FairItem(
        "held_equal",
        "Same tool, light, place and hands",
        "All that differs between samples beside the treatment can pass for its effect.",
        "That nothing but the treatment differed: tool, light, place and hands were not held equal.",
        judges.held_equal,
        "not everything is held equal",
    ),
    FairItem(
        "baseline",
        "A baseline is taken",
        "Samples that were better at the start stay better, whatever they get.",
        "That the samples were alike at the start: nobody looked.",
        judges.baseline,
        "nobody looks before the start",
    ),
    FairItem(
        "anchored",
        "The scale is anchored",
        "Without words for each level a grade drifts, and a 3 of the first day is a 4 of the last.",
        "That a grade meant the same from first to last: its levels had no words.",
        judges.anchored,
        "the levels have no words",
    ),
    FairItem(
        "method",
        "The measuring method is proven first",
        "A blank, a known sample and a few repeats tell what the method can see at all.",
        "Small differences: what the method can see was not tried out beforehand.",
        judges.method,
        "it is not tried beforehand",
    ),
    FairItem(
        "blind",
        "The scorer is blind",
        "Hope grades upwards, and nobody can help it.",
        "That hope did not help: whoever scored could know which was which.",
        judges.blind,
        "whoever scores may know",
    ),
    FairItem(
        "order",
        "Order and places are random",
        "A pattern of ours always lines up with some pattern of the bench, the light or the day.",
        "That place and order played no part: they were not drawn at random.",
        judges.order,
        "they are not drawn",
        promised=True,
    ),
    FairItem(
        "apart",
        "Buffers and clean tools between treatments",
        "Drift, splash and a shared spoon make treatments alike that are not.",
        "That nothing crossed over: neighbours and tools were not kept apart, so true differences may be larger.",
        judges.apart,
        "they stand side by side",
    ),
    FairItem(
        "shelf_life",
        "Everything within its shelf life",
        "An old bottle tells about old bottles.",
        "How a fresh product does: not all of them were within their shelf life.",
        judges.shelf_life,
        "not all of it is within its shelf life",
    ),
    FairItem(
        "stop",
        "The end is fixed beforehand",
        "Who stops when it looks good finds a winner every time.",
        "That it was not stopped when it looked best: the end was not fixed beforehand.",
        judges.stop,
        "it may end sooner",
        promised=True,
    ),
    FairItem(
        "prediction",
        "A prediction is written down",
        "Afterwards everyone knew it all along.",
        "That anyone foresaw it: no prediction was written down.",
        judges.prediction,
        "nobody writes one down",
    ),
)

TASTED: tuple[FairItem, ...] = (
    FairItem(
        "placebo",
        "What it is given in is the same for all",
        "Bread, water or a spoon can be what is noticed; where something is given in a carrier, all get the same one.",
        "That it was the thing itself and not what it was given in.",
        judges.promise("Is all of it given in the same way, with the same beside it?"),
        "what it is given in differs",
    ),
    FairItem(
        "blind_pour",
        "Nobody who judges sees it poured",
        "A glance at the bottle is enough; whoever pours does not serve, and does not watch faces.",
        "That nobody could know: it was not poured out of sight.",
        judges.promise("Is it poured out of sight, by somebody who does not serve?"),
        "it is poured in sight",
    ),
    FairItem(
        "same_cups",
        "All are served alike",
        "Another cup, fill, temperature or light is noticed before the thing itself is.",
        "That it was the thing itself and not how it was served.",
        judges.promise("Are cups, fill, temperature and light the same for all?"),
        "they are not served alike",
    ),
)
"""What makes a tasting fair: no more than a panel needs."""

AGREED: tuple[FairItem, ...] = (
    FairItem(
        "same_sample",
        "All read the very same thing",
        "What settles, cools or is used up between two readings passes for a difference between instruments.",
        "That a difference is the instrument's: they did not read the very same thing at the same time.",
        judges.promise("Does each read the very same sample, soon after the other, and stirred or mixed alike?"),
        "not all read the very same thing",
    ),
    FairItem(
        "unseen",
        "Nobody knows what another has shown",
        "Whoever has seen 8.2 reads 8.2 from the colour chart too.",
        "That they agree by themselves: whoever read one knew what another had shown.",
        judges.promise(
            "Is each read by somebody who has not seen what the others showed (a person for each, or cards turned over)?"
        ),
        "whoever reads one sees the others",
    ),
    FairItem(
        "blanks",
        "Blanks, and something known",
        "Two that agree may both be wrong; only what is known beforehand tells that.",
        "Which of them is right: nothing was among the samples whose amount is known.",
        judges.something_known,
        "nothing in them is known",
    ),
    FairItem(
        "range",
        "From little to much",
        "Instruments that agree in the middle may part at the ends.",
        "Anything outside what was read: the samples did not span what will be met.",
        judges.promise("Do the samples span all that will be met, from nothing to the most?"),
        "they do not span it",
    ),
    *(item for item in ITEMS if item.key in ("order", "shelf_life")),
)
"""What makes a comparison of instruments fair."""


def items_of(plan: Plan) -> tuple[FairItem, ...]:
    """The items that are asked of ``plan``."""
    if plan.agreement is not None:
        return AGREED
    return TASTED if plan.tasting else ITEMS

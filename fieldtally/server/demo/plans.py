"""The plans of the demo's trials."""

from fieldtally.core.design.plan import Block, Checkpoint, Layout, Outcome, Plan, Summary, Treatment
from fieldtally.core.scales import CountScale, GradeScale, Level, MeasurementScale, PassFailScale

HOUR, DAY, WEEK = 60, 24 * 60, 7 * 24 * 60

DAHLIAS = Plan(
    title="Cut dahlias in the vase",
    question="Which water keeps cut dahlias fresh longest?",
    prediction="The house mix will win by a day; the two powders will be alike.",
    sample_word="stem",
    zone="Europe/London",
    treatments=(
        Treatment("plain", "Plain tap water", "untreated", 3),
        Treatment("house", "House mix, sugar and lemon", "standard", 3),
        Treatment("stemkin", "Stemkin powder", samples=3),
        Treatment("vaselode", "Vaselode powder", samples=3),
    ),
    layout=Layout("blocks", (Block("porch", "Porch", "9 °C, shade"), Block("kitchen", "Kitchen", "21 °C, window"))),
    outcomes=(
        Outcome(
            "fresh",
            "Freshness",
            GradeScale(
                (
                    Level(0, "0", "finished"),
                    Level(1, "1", "head droops, edges brown"),
                    Level(2, "2", "half the head limp"),
                    Level(3, "3", "outer row limp, centre firm"),
                    Level(4, "4", "outer petals soften"),
                    Level(5, "5", "as cut, petals firm"),
                )
            ),
            margin=1.0,
            expected=1.5,
            spread=0.7,
            summary=Summary("value", "day8"),
        ),
        Outcome(
            "petals",
            "Petals",
            PassFailScale("all on", "some fallen"),
            primary=False,
        ),
        Outcome(
            "drunk",
            "Water drunk",
            MeasurementScale("mL", 1.0, 0.0, 400.0),
            primary=False,
            checkpoints=("day6", "day12"),
        ),
    ),
    checkpoints=tuple(Checkpoint(f"day{n}", f"Day {n}", n * DAY, 3 * HOUR, 9 * HOUR) for n in range(1, 13)),
)

PEAS = Plan(
    title="Soaking peas before sowing",
    question="Does a soak before sowing bring up more peas, and sooner?",
    prediction="Any soak beats none; the tea adds little over water.",
    sample_word="tray",
    zone="Europe/London",
    treatments=(
        Treatment("dry", "Sown dry", "untreated", 4),
        Treatment("water", "Plain water, 12 h", samples=4),
        Treatment("tea", "Weak seaweed tea, 12 h", samples=4),
    ),
    layout=Layout(
        "blocks", (Block("north", "North bench", "shade until noon"), Block("south", "South bench", "full light"))
    ),
    outcomes=(
        Outcome(
            "sprouted",
            "Seeds sprouted",
            CountScale(20, "seeds"),
            margin=2.0,
            expected=3.0,
            spread=1.3,
            summary=Summary("value", "day10"),
        ),
    ),
    checkpoints=tuple(Checkpoint(f"day{n}", f"Day {n}", n * DAY, 6 * HOUR, 12 * HOUR) for n in (4, 7, 10, 14)),
)

PENS = Plan(
    title="Plant-label pens",
    question="Which pen can still be read after a winter outdoors?",
    prediction="Pencil outlasts them all.",
    sample_word="label",
    zone="Europe/London",
    treatments=(
        Treatment("pencil", "Soft pencil", "standard", 3),
        Treatment("marker", "Garden marker, black", samples=3),
        Treatment("paint", "Paint pen, white", samples=3),
    ),
    outcomes=(
        Outcome(
            "read",
            "Readable from 1 m",
            GradeScale(
                (
                    Level(0, "0", "nothing left"),
                    Level(1, "1", "traces, cannot be read"),
                    Level(2, "2", "some letters"),
                    Level(3, "3", "read with effort"),
                    Level(4, "4", "read, but faded"),
                    Level(5, "5", "as written"),
                )
            ),
            margin=1.0,
        ),
    ),
    checkpoints=tuple(Checkpoint(f"week{n}", f"Week {n}", n * WEEK, 3 * DAY, 3 * DAY) for n in (2, 6, 12, 20)),
)

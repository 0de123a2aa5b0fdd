"""The plans of the demo's trials."""

from fieldtally.core.design.plan import (
    Block,
    Checkpoint,
    Dose,
    EndingRule,
    Factor,
    FactorLevel,
    HeldEqual,
    Layout,
    Outcome,
    Plan,
    Product,
    Proof,
    Stand,
    Summary,
    Treatment,
)
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.scales import (
    CountScale,
    CurveScale,
    EventScale,
    GradeScale,
    LadderScale,
    Level,
    MeasurementScale,
    NoteScale,
    Shade,
    ShadeScale,
)
from fieldtally.core.scales.templates import stars

HOUR, DAY, WEEK = 60, 24 * 60, 7 * 24 * 60


def _stands(*kept: str, **given_up: str) -> tuple[Stand, ...]:
    """Items of the fairness list that somebody vouches for, and those given up with their reasons."""
    return (*(Stand(key, True) for key in kept), *(Stand(key, False, reason) for key, reason in given_up.items()))


DAHLIAS = Plan(
    title="Cut dahlias in the vase",
    question="Which water keeps cut dahlias fresh longest?",
    why="The show is judged on the fourth day, and two makers have sent powders.",
    decision="Which mix goes into the buckets for the show, and whether to buy powder at all.",
    hazards="Powders irritate eyes and skin: follow the label, and keep vases away from children and pets.",
    purpose="lasting",
    school="label",
    sample_word="stem",
    repeats=0.1,
    zone="Europe/London",
    treatments=(
        Treatment("plain", "Plain tap water", "untreated", 3, cost=0.0),
        Treatment(
            "house",
            "House mix, sugar and lemon",
            "standard",
            3,
            package=True,
            changes="sugar and lemon juice",
            cost=0.03,
            doses=(Dose("house-sugar", "sugar", "label", "10 g/L"), Dose("house-lemon", "lemon", "label", "5 mL/L")),
        ),
        Treatment(
            "stemkin",
            "Stemkin powder",
            samples=3,
            cost=0.11,
            doses=(Dose("stemkin-dose", "stemkin", "label", "8 g/L"),),
        ),
        Treatment(
            "vaselode",
            "Vaselode powder",
            samples=3,
            cost=0.09,
            doses=(Dose("vaselode-dose", "vaselode", "pack", "5 g treats 500 mL"),),
        ),
    ),
    sample_cost=0.9,
    sample_size="400 mL",
    carrier="tap water",
    top_up=True,
    cleaning="hot water and washing soda",
    products=(
        Product("sugar", "White sugar", "sugar", "100 %", "1 kg", 1.10),
        Product("lemon", "Lemon juice", pack="250 mL", price=3.00, keeps_open=21),
        Product("stemkin", "Stemkin powder", "sugar", "80 %", "100 g", 3.40, 180),
        Product("vaselode", "Vaselode powder", "sugar", "52 %", "200 g", 4.50, 180),
    ),
    held_equal=(
        HeldEqual("vase", "Vase", "clear glass, 500 mL, washed"),
        HeldEqual("water", "Water", "400 mL, tap, stood over night"),
        HeldEqual("cut", "Cut", "slanting, 2 cm, under water"),
        HeldEqual("stems", "Stems", "one bed, cut the same morning, 40 cm"),
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
        Outcome("petals", "Petal drop", EventScale("a petal on the table"), "less", primary=False),
        Outcome(
            "drunk",
            "Water drunk",
            MeasurementScale("mL", 1.0, 0.0, 400.0),
            primary=False,
            checkpoints=("day6", "day12"),
        ),
    ),
    checkpoints=tuple(Checkpoint(f"day{n}", f"Day {n}", n * DAY, 3 * HOUR, 9 * HOUR) for n in range(1, 13)),
    fairness=_stands(
        "unit",
        "method",
        "blind",
        "order",
        "apart",
        "shelf_life",
        placebo="every stem stands in water anyway; nothing else carries the powders",
        baseline="stems of one cutting, looked through by two of us",
    ),
)

PEAS = Plan(
    title="Soaking peas before sowing",
    question="Does a soak before sowing bring up more peas, and sooner?",
    why="Half the members soak, half say it rots the seed.",
    decision="What the sowing sheet for March will say.",
    hazards="Seaweed tea stains and smells; wear gloves, and follow the label of the extract.",
    purpose="fast",
    school="same",
    sample_word="tray",
    repeats=0.1,
    zone="Europe/London",
    treatments=(
        Treatment("dry", "Sown dry", "untreated", 4),
        Treatment("water", "Plain water, 12 h", "placebo", 4),
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
    pieces=20,
    piece_word="seeds",
    held_equal=(
        HeldEqual("seed", "Seed", "one packet, stirred, handed out by the spoon"),
        HeldEqual("soil", "Soil", "one sack of sowing mix"),
        HeldEqual("watering", "Watering", "from below, every second morning"),
    ),
    ending=EndingRule("levelled", "sprouted"),
    fairness=_stands(
        "one_change",
        "method",
        "blind",
        "order",
        "apart",
        "shelf_life",
        baseline="nothing can have sprouted on the day of sowing",
    ),
)

MARIGOLD_CHART = ShadeScale(
    (
        Shade("Bright orange", "#dd8a2c"),
        Shade("Orange", "#c67c34"),
        Shade("Amber", "#ab6a38"),
        Shade("Tan", "#8b5537"),
        Shade("Brown", "#6a4233"),
    ),
    between=True,
)

MARIGOLDS = Plan(
    title="Colour of dried marigolds",
    question="Which way of drying keeps the orange?",
    why="The wreaths for the winter market fade before they are sold.",
    decision="How next year's two hundred heads are dried.",
    hazards="An oven door ajar is hot: use a cloth, and keep children away. Dry sand dusts; wear a mask.",
    purpose="lasting",
    school="same",
    sample_word="flower head",
    zone="Europe/London",
    treatments=(
        Treatment("sill", "Sunny sill, as always", "standard", 2),
        Treatment("loft", "Hung in the dark loft", samples=2),
        Treatment("oven", "Slow oven, door ajar", samples=2),
        Treatment("sand", "Buried in dry sand", samples=2),
    ),
    layout=Layout("blocks", (Block("first", "Cut on Tuesday"), Block("second", "Cut on Friday"))),
    outcomes=(
        Outcome(
            "faded",
            "Colour lost since fresh",
            MeasurementScale("ΔE2000", 0.1, 0, 80),
            better="less",
            margin=3.0,
            expected=6.0,
            spread=2.0,
            checkpoints=("day14",),
            proof=Proof(
                blanks=(0.4, 0.6, 0.3),
                known=9.3,
                known_readings=(9.1, 9.6, 9.3),
                repeats=((5.1, 5.4), (12.2, 11.9), (8.0, 8.3)),
            ),
        ),
        Outcome("shade", "Shade in the photo", MARIGOLD_CHART, better="less", primary=False, checkpoints=("day14",)),
        Outcome(
            "eye",
            "Shade by eye",
            MARIGOLD_CHART,
            better="less",
            primary=False,
            practised=True,
        ),
    ),
    checkpoints=(
        Checkpoint("fresh", "Fresh", 0, baseline=True),
        Checkpoint("day14", "Day 14", 14 * DAY, 12 * HOUR, 2 * DAY),
    ),
    held_equal=(
        HeldEqual("bed", "Bed", "one bed, one sowing"),
        HeldEqual("card", "Photo card", "the same printed card in every picture"),
        HeldEqual("store", "Kept", "in one box, closed, between the looks"),
    ),
    fairness=_stands(
        "unit",
        "one_change",
        "method",
        "blind",
        "order",
        "apart",
        "shelf_life",
        placebo="drying carries nothing that a sham could stand in for",
    ),
)

PENS = Plan(
    title="Plant-label pens",
    question="Which pen can still be read after a winter outdoors?",
    why="Every spring a third of the labels are blank.",
    decision="What the society buys for two hundred labels.",
    hazards="Paint pens give off solvent: use them outdoors and follow the label.",
    purpose="lasting",
    sample_word="label",
    zone="Europe/London",
    factors=(
        Factor(
            "pen",
            "Pen",
            (
                FactorLevel("pencil", "Soft pencil"),
                FactorLevel("marker", "Garden marker"),
                FactorLevel("paint", "Paint pen"),
            ),
        ),
        Factor("label", "Label", (FactorLevel("wood", "wood"), FactorLevel("plastic", "plastic"))),
    ),
    treatments=(
        Treatment("a", "Soft pencil, wood", "standard", 3, levels={"pen": "pencil", "label": "wood"}, cost=0.05),
        Treatment("b", "Garden marker, wood", samples=3, levels={"pen": "marker", "label": "wood"}, cost=0.12),
        Treatment("c", "Paint pen, wood", samples=3, levels={"pen": "paint", "label": "wood"}, cost=0.2),
        Treatment("d", "Soft pencil, plastic", samples=3, levels={"pen": "pencil", "label": "plastic"}, cost=0.09),
        Treatment("e", "Paint pen, plastic", samples=3, levels={"pen": "paint", "label": "plastic"}, cost=0.24),
    ),
    sample_cost=0.15,
    outcomes=(
        Outcome(
            "read",
            "Readable from 1 m",
            stars(
                (
                    "nothing left",
                    "traces, cannot be read",
                    "some letters",
                    "read with effort",
                    "read, but faded",
                    "as written",
                )
            ),
            margin=1.0,
            margin_unit="grades",
        ),
    ),
    checkpoints=tuple(Checkpoint(f"week{n}", f"Week {n}", n * WEEK, 3 * DAY, 3 * DAY) for n in (2, 6, 12, 20)),
    held_equal=(HeldEqual("text", "Text", "the same eight letters, by one hand"),),
    fairness=_stands("unit", "method", placebo="a label without writing cannot be read at all"),
)

GHERKINS = Plan(
    title="Crunch of bottled gherkins",
    question="Does a vine leaf in the jar keep gherkins crunchy, and can anyone tell?",
    why="Four recipes are in use, and each has its believers.",
    decision="Which recipe goes on the society's sheet.",
    hazards="Contains mustard, dill and celery: ask about allergies first. Open no jar that hisses or has lost its seal.",
    purpose="lasting",
    school="same",
    sample_word="jar",
    pieces=12,
    piece_word="gherkins",
    zone="Europe/London",
    treatments=(
        Treatment("plain", "No leaf", "untreated", 4, cost=1.1),
        Treatment("vine", "Vine leaf", samples=4, cost=1.15),
        Treatment("oak", "Oak leaf", samples=4, cost=1.15),
        Treatment("tea", "Black tea bag", samples=4, cost=1.25),
    ),
    layout=Layout("latin", row_word="shelf", column_word="place"),
    held_equal=(
        HeldEqual("brine", "Brine", "6 % salt, one kettle for all jars"),
        HeldEqual("fruit", "Gherkins", "6 to 8 cm, picked the same morning"),
        HeldEqual("cellar", "Cellar", "14 °C, dark"),
    ),
    outcomes=(
        Outcome(
            "crunch",
            "Crunch",
            stars(("mush", "soft", "bends", "firm", "snaps"), halves=True),
            margin=0.5,
            margin_unit="grades",
            expected=1.0,
            spread=0.5,
        ),
        Outcome(
            "smell", "Smell", stars(("foul", "off", "faint", "clean", "fresh")), primary=False, group="At the table"
        ),
        Outcome("words", "In words", NoteScale("What do you notice first?"), primary=False, group="At the table"),
    ),
    checkpoints=(
        Checkpoint("opened", "Week 6", 6 * WEEK, 2 * DAY, 5 * DAY),
        Checkpoint("later", "Week 12", 12 * WEEK, 2 * DAY, 5 * DAY),
    ),
    ending=EndingRule("fixed"),
    fairness=_stands(
        "one_change",
        "method",
        "blind",
        "order",
        "apart",
        "shelf_life",
        placebo="a leaf is the treatment; a paper leaf would taste",
        baseline="fresh gherkins of one picking are all alike",
    ),
)

TWINES = Plan(
    title="Garden twine through a season",
    question="Which twine still holds a tomato truss after a season, in sun and in shade?",
    why="Twine broke in August two years running.",
    decision="Which twine is bought for next season, and whether sun and shade need different ones.",
    hazards="Weights fall: keep feet and faces away, wear shoes and glasses while the ladder is climbed.",
    purpose="lasting",
    school="same",
    sample_word="length",
    zone="Europe/London",
    treatments=(
        Treatment("jute", "Jute, three strands", "standard", 5, cost=0.08),
        Treatment("hemp", "Hemp, waxed", samples=5, cost=0.22),
        Treatment("cotton", "Cotton, braided", samples=5, cost=0.17),
        Treatment("poly", "Poly twine, green", samples=5, cost=0.05),
    ),
    layout=Layout(
        "blocks", (Block("sun", "Sunny fence", "south, no shade"), Block("shade", "Shaded arch", "under the vine"))
    ),
    sample_cost=0.02,
    held_equal=(
        HeldEqual("length", "Length", "1 m between the knots"),
        HeldEqual("knot", "Knots", "two half hitches, one pair of hands"),
        HeldEqual("scale", "Scale", "the 25 kg spring scale, zeroed each time"),
    ),
    outcomes=(
        Outcome(
            "load",
            "Load held",
            LadderScale("kg", (2.5, 5.0, 7.5, 10.0, 12.5, 15.0, 17.5, 20.0, 22.5, 25.0)),
            margin=2.5,
            margin_unit="kg",
            expected=5.0,
            spread=2.5,
            proof=Proof(
                known=10.0, known_readings=(10.0, 10.0, 10.0), repeats=((10.0, 10.0), (5.0, 5.0), (20.0, 20.0))
            ),
        ),
        Outcome(
            "stretch",
            "Stretch under load",
            CurveScale("mm", "kg", (0.5, 1.0, 1.5, 2.0)),
            "less",
            primary=False,
            wait=1,
            wait_says="read the rule",
        ),
    ),
    checkpoints=(Checkpoint("end", "Week 20", 20 * WEEK, 3 * DAY, 7 * DAY),),
    fairness=_stands(
        "unit",
        "one_change",
        "blind",
        "order",
        "apart",
        "shelf_life",
        placebo="twine is given in no carrier",
        baseline="a length that was loaded before cannot be hung out",
    ),
)

LEAF_OR_NONE = PanelPlan(
    "Leaf or no leaf",
    method="triangle",
    things=("plain", "vine"),
    preference=True,
    no_preference="drop",
    chips=("snaps", "crisp", "soft", "sour", "bitter"),
    amount=2,
    amount_unit="slices",
    pause=60,
    allergens="mustard, celery",
    dose="6 slices in all, about 0.4 g of salt",
    words_to_say="One slice from each cup, the first on the left. Water in between. Say nothing until all are done.",
    break_off="anybody feels unwell, or a jar smells wrong",
)
WHICH_JAR = PanelPlan(
    "Which jar is which",
    method="naming",
    things=("plain", "vine", "oak", "tea"),
    noticing=0.2,
    amount=2,
    amount_unit="slices",
    pause=60,
    allergens="mustard, celery, black tea",
    dose="8 slices in all, about 0.5 g of salt",
    words_to_say="Each name belongs to one cup. Water in between.",
    break_off="anybody feels unwell, or a jar smells wrong",
)

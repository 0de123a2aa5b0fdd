"""The catalogue: what is usual for a substance or an activity, and the words by which it is recognised.

Compiled from the common advice of chemical and workshop hygiene (the hazard classes of the GHS, and the classes of
incompatible materials that every laboratory keeps apart).  It is a reminder, not an authority.
"""

from __future__ import annotations

from dataclasses import dataclass

DEFERS = "The product’s label and safety data sheet, local codes and licensed practice go before this."


@dataclass(frozen=True)
class Hazard:
    """A class of substance or activity: the words (beginnings of words) it is known by, and what is usual with it; words that are
    ``harmless_alone`` count only where two things meet, lest a caution about kitchen sugar teaches people to skip cautions."""

    key: str
    name: str
    words: tuple[str, ...]
    usual: tuple[str, ...]
    harmless_alone: tuple[str, ...] = ()


@dataclass(frozen=True)
class Forbidden:
    """Two classes (keys) that must not meet, and what comes of it if they do."""

    first: str
    second: str
    because: str


HAZARDS: tuple[Hazard, ...] = (
    Hazard(
        "acid",
        "acid",
        (
            "acid",
            "vinegar",
            "hydrochloric",
            "sulfuric",
            "sulphuric",
            "phosphoric",
            "citric",
            "acetic",
            "descaler",
            "muriatic",
            "lemon juice",
        ),
        (
            "Gloves and eye protection.",
            "Acid into water, never water into acid.",
            "Soda at hand to neutralise spills.",
        ),
    ),
    Hazard(
        "bleach",
        "chlorine bleach",
        (
            "bleach",
            "hypochlorite",
            "chlorine",
            "javel",
        ),
        (
            "Gloves and eye protection.",
            "Windows open or outdoors.",
            "Never mixed with any other cleaner.",
        ),
    ),
    Hazard(
        "ammonia",
        "ammonia",
        (
            "ammonia",
            "ammonium hydroxide",
            "window cleaner",
        ),
        (
            "Gloves and eye protection.",
            "Plenty of air: it chokes before it is noticed much.",
        ),
    ),
    Hazard(
        "peroxide",
        "peroxide",
        (
            "peroxide",
            "percarbonate",
            "peracetic",
        ),
        (
            "Gloves and eye protection: it burns skin white.",
            "A vented lid: it gives off gas.",
        ),
    ),
    Hazard(
        "caustic",
        "caustic alkali",
        (
            "caustic",
            "lye",
            "sodium hydroxide",
            "potassium hydroxide",
            "quicklime",
            "slaked lime",
            "oven cleaner",
            "drain cleaner",
        ),
        (
            "Gloves, eye protection and sleeves.",
            "Into cold water little by little: it heats up.",
            "Kept from aluminium.",
        ),
    ),
    Hazard(
        "solvent",
        "solvent",
        (
            "solvent",
            "acetone",
            "turpentine",
            "white spirit",
            "petrol",
            "gasoline",
            "toluene",
            "xylene",
            "thinner",
            "paraffin",
            "kerosene",
        ),
        (
            "No flame, no spark, no smoking.",
            "Outdoors or with plenty of air.",
            "Oily rags spread out or under water: heaps of them catch fire.",
        ),
    ),
    Hazard(
        "alcohol",
        "alcohol",
        (
            "alcohol",
            "ethanol",
            "isopropanol",
            "isopropyl",
            "methanol",
            "methylated",
            "spirits",
        ),
        (
            "No flame, no spark.",
            "Windows open.",
            "Methylated or technical alcohol is never drunk.",
        ),
    ),
    Hazard(
        "pesticide",
        "pesticide",
        (
            "pesticide",
            "insecticide",
            "fungicide",
            "herbicide",
            "weedkiller",
            "weed killer",
            "slug pellet",
            "glyphosate",
            "pyrethr",
            "neem oil",
        ),
        (
            "Used as its label says and where the law allows, by whom it allows.",
            "Gloves; no eating or drinking meanwhile.",
            "Kept from children, animals, bees and water.",
        ),
    ),
    Hazard(
        "nitrate",
        "nitrate or strong oxidiser",
        (
            "nitrate",
            "permanganate",
            "chlorate",
            "oxidiser",
            "oxidizer",
            "saltpetre",
            "saltpeter",
        ),
        ("Kept dry and apart from anything that burns.",),
    ),
    Hazard(
        "sulphide",
        "sulphide",
        (
            "sulfide",
            "sulphide",
            "lime sulphur",
            "lime sulfur",
            "liver of sulphur",
            "liver of sulfur",
        ),
        ("Outdoors: the gas from it numbs the nose that should warn.",),
    ),
    Hazard(
        "cyanide",
        "cyanide",
        ("cyanide",),
        ("Only for licensed hands with the means for an emergency.",),
    ),
    Hazard(
        "fuel",
        "fuel or fine organic matter",
        (
            "charcoal",
            "sawdust",
            "sugar",
            "diesel",
            "fuel",
            "wood flour",
            "sulphur powder",
            "sulfur powder",
        ),
        ("Kept from flame and from oxidisers; fine dust of it can explode.",),
        harmless_alone=("sugar",),
    ),
    Hazard(
        "hot",
        "hot work",
        (
            "weld",
            "solder",
            "blowtorch",
            "torch",
            "forge",
            "kiln",
            "firing",
            "furnace",
            "hot oil",
            "boiling",
            "pressure cook",
        ),
        (
            "Gloves, eye protection, no loose sleeves.",
            "An extinguisher or a bucket of sand at hand.",
            "Somebody looks again half an hour later.",
        ),
    ),
    Hazard(
        "dust",
        "dust",
        (
            "dust",
            "sanding",
            "grinding",
            "cement",
            "plaster",
            "silica",
            "asbestos",
            "grout",
            "fibreglass",
            "fiberglass",
        ),
        (
            "A mask that fits, and eye protection.",
            "Wet rather than dry; swept damp.",
            "Old boards and lagging may hold asbestos: leave those to licensed hands.",
        ),
    ),
    Hazard(
        "load",
        "moving or hanging load",
        (
            "load",
            "weights",
            "hoist",
            "winch",
            "tension",
            "break test",
            "breaking",
            "drop test",
            "press",
        ),
        (
            "Feet and faces out of the way; shoes and glasses on.",
            "A second line or a soft landing for what falls.",
        ),
    ),
    Hazard(
        "electric",
        "electricity or batteries",
        (
            "battery",
            "batteries",
            "lithium",
            "mains",
            "230 v",
            "120 v",
            "charger",
            "electrical",
            "electric shock",
        ),
        (
            "Mains work only by those licensed for it, with the power off and checked.",
            "Batteries charged on stone, watched, never when swollen or hot.",
        ),
    ),
    Hazard(
        "drink",
        "alcohol to drink",
        (
            "wine",
            "beer",
            "cider",
            "mead",
            "liqueur",
            "whisky",
            "gin tasting",
            "tasting of spirits",
        ),
        (
            "Of age only, and nobody who must not drink.",
            "Small pours, a spit cup, water, and no driving after.",
        ),
    ),
    Hazard(
        "mould",
        "mould",
        (
            "mould",
            "mold",
            "mildew",
            "spores",
            "rotting",
        ),
        (
            "Lids stay closed; no sniffing.",
            "A mask and gloves; nobody with asthma or weak lungs.",
        ),
    ),
    Hazard(
        "preserve",
        "preserves",
        (
            "canning",
            "bottled",
            "preserve",
            "pickled",
            "ferment",
            "jar that hisses",
        ),
        (
            "Low-acid food in sealed jars can carry botulism without smell or taste: acid, salt and heat by a tested recipe.",
            "A jar that hisses or bulges is thrown away unopened.",
        ),
    ),
    Hazard(
        "allergen",
        "allergens",
        (
            "peanut",
            "almond",
            "hazelnut",
            "walnut",
            "cashew",
            "milk",
            "egg",
            "wheat",
            "gluten",
            "soy",
            "sesame",
            "mustard",
            "celery",
            "shellfish",
            "fish",
            "lupin",
            "sulphite",
            "sulfite",
        ),
        ("Declared before anybody tastes or touches it.",),
    ),
)

FORBIDDEN: tuple[Forbidden, ...] = (
    Forbidden("bleach", "acid", "chlorine gas comes off, which kills in a closed room"),
    Forbidden("bleach", "ammonia", "chloramine vapours come off, which burn the lungs"),
    Forbidden("bleach", "alcohol", "chloroform and other poisons form"),
    Forbidden("bleach", "peroxide", "oxygen comes off violently and heat with it"),
    Forbidden("acid", "sulphide", "hydrogen sulphide comes off, which kills before it is noticed"),
    Forbidden("acid", "cyanide", "hydrogen cyanide comes off, which kills at once"),
    Forbidden("acid", "caustic", "the mixture boils and spits"),
    Forbidden("peroxide", "acid", "with vinegar peracetic acid forms, which burns eyes and lungs"),
    Forbidden("peroxide", "solvent", "explosive peroxides can form"),
    Forbidden("nitrate", "fuel", "the mixture burns by itself or explodes"),
    Forbidden("nitrate", "solvent", "the mixture burns by itself or explodes"),
    Forbidden("nitrate", "acid", "poisonous brown gases come off"),
)

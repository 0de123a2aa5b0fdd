"""The people of the demo and how they sign in."""

from dataclasses import dataclass

PASSWORD = "tarn-lane-demo"  # noqa: S105


@dataclass(frozen=True)
class Person:
    """An account of the demo."""

    email: str
    name: str
    does: str


LEAD = Person("lead@tarnlane.example", "Maren Ashdown", "plans and leads the trials")
SCORER = Person("scorer@tarnlane.example", "Tobit Wray", "scores, blind")
PREPARER = Person("preparer@tarnlane.example", "Ilse Farrow", "prepares the samples")
VIEWER = Person("viewer@tarnlane.example", "Ned Quill", "looks on")
PEOPLE = (LEAD, SCORER, PREPARER, VIEWER)

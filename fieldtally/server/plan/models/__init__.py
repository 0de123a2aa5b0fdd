"""What is kept of a plan: a file for each thing."""

from fieldtally.server.plan.models.amendment import Amendment
from fieldtally.server.plan.models.draft import Draft
from fieldtally.server.plan.models.prediction import Prediction
from fieldtally.server.plan.models.rehearsed import Rehearsal
from fieldtally.server.plan.models.sample import KeyEntry, Sample
from fieldtally.server.plan.models.sealed import Checkpoint, Outcome, SealedPlan
from fieldtally.server.plan.models.shared import Lent, SharedThing
from fieldtally.server.plan.models.shuffled import Shuffle, Uncovered

__all__ = [
    "Amendment",
    "Checkpoint",
    "Draft",
    "KeyEntry",
    "Lent",
    "Outcome",
    "Prediction",
    "Rehearsal",
    "Sample",
    "SealedPlan",
    "SharedThing",
    "Shuffle",
    "Uncovered",
]

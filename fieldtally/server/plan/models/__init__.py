"""What is kept of a plan: a file for each thing."""

from fieldtally.server.plan.models.draft import Draft
from fieldtally.server.plan.models.sample import KeyEntry, Sample
from fieldtally.server.plan.models.sealed import Checkpoint, Outcome, SealedPlan

__all__ = ["Checkpoint", "Draft", "KeyEntry", "Outcome", "Sample", "SealedPlan"]

"""What a plan can tell, foreseen: the same for the same plan, whoever asks and however often."""

from __future__ import annotations

import numpy as np

from fieldtally.core.design.plan import Plan
from fieldtally.core.outlook.outlook import Outlook, outlook

OUTLOOK_SEED = 20


def foreseen(plan: Plan, *, whole: bool = True) -> Outlook | None:
    """The outlook of ``plan``, or what is known of it at once; None where it is not sound enough to tell one."""
    return outlook(plan, np.random.default_rng(OUTLOOK_SEED), whole=whole)

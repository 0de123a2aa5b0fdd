"""Field Tally: plan, score and judge side-by-side trials.

The library's door: :func:`verdict`, :func:`panel` and :func:`outlook` over any table; see :mod:`fieldtally.library`.
"""

from fieldtally.core.problems import Refused
from fieldtally.library import Outcome, Verdict, outlook, panel, verdict

__all__ = ["Outcome", "Refused", "Verdict", "outlook", "panel", "verdict"]

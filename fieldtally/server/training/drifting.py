"""Taking back who is ready, by what they did in real rounds since."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from fieldtally.core.training.drifting import drifted
from fieldtally.core.training.learning import limit_for
from fieldtally.server.log.services import write_note
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.rounds.queries import scorers_of
from fieldtally.server.rounds.readiness import ready_until
from fieldtally.server.training.agreement import agreements
from fieldtally.server.training.models import Readiness


def see_drift(sender: object, *, trial: Trial, user: User, now: datetime, **more: Any) -> None:
    """Before somebody scores another round: where their hand has moved since they showed that they are ready, they practise again
    first, and the log says why."""
    plan = plan_of(trial)
    asked = [o for o in plan.outcomes if o.practised and ready_until(trial, user, o.key, now) is not None]
    name = scorers_of(trial).get(user.pk) if asked else None
    for outcome in asked if name else ():
        shown = Readiness.objects.filter(trial=trial, by=user, outcome=outcome.key).order_by("-at", "-pk")[0]
        found = next(
            (one.found for one in agreements(trial, plan, since=shown.at) if one.outcome.key == outcome.key), None
        )
        alone = next((one for one in found.alone if one.scorer == name), None) if found else None
        if alone and drifted(alone, limit_for(outcome.scale)):
            Readiness.objects.create(
                trial=trial,
                outcome=outcome.key,
                by=user,
                off=shown.off,
                bias=shown.bias,
                sets=shown.sets,
                at=now,
                until=now,
            )
            # Neither by how much nor by what: that would tell a blind scorer what others gave, and which samples came again.
            says = f"{user.called} practises {outcome.name} again before the next round: what they gave in rounds has moved too far."
            write_note(trial, user, says, at=now)

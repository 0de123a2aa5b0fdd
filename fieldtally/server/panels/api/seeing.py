"""Who may see a panel: the panel and what the person may do in its trial."""

from uuid import UUID

from django.http import HttpRequest

from fieldtally.server.answers import missing
from fieldtally.server.panels.models import Panel
from fieldtally.server.people.sight import Sight, sight


def panel_seen(request: HttpRequest, panel_id: UUID) -> tuple[Sight, Panel]:
    """The panel and the sight of who asks.

    :raises Declined: 404, alike for a panel that does not exist and for one of another's trial; 403 for those who may judge in it.
    """
    panel = Panel.objects.select_related("trial").filter(pk=panel_id).first()
    if panel is None:
        raise missing()
    seen = sight(request, panel.trial_id)
    seen.need("see_panel")
    return seen, panel

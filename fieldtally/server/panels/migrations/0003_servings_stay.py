"""What was served stays as it was drawn; that a cup was spilt is said once.  A panel's seed and moments are set once."""

from django.db import migrations

from fieldtally.server.appendonly import set_once


class Migration(migrations.Migration):
    dependencies = [("panels", "0002_append_only"), ("people", "0006_chain")]
    operations = [
        set_once("panels_serving", ("spilt",), frozen=("id", "assessor_id", "session", "place", "order", "codes")),
        set_once("panels_panel", ("seed", "begun_at", "closed_at"), frozen=("id", "trial_id", "by_id")),
    ]

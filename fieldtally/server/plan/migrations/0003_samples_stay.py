"""Samples, outcomes and checkpoints of a sealed plan stay as they were drawn."""

from django.db import migrations

from fieldtally.server.appendonly import append_only


class Migration(migrations.Migration):
    dependencies = [("plan", "0002_append_only"), ("people", "0006_chain")]
    operations = [append_only(f"plan_{table}") for table in ("sample", "outcome", "checkpoint")]

"""What is measured in photos, readiness and what scorers gave together are append-only."""

from django.db import migrations

from fieldtally.server.appendonly import append_only


class Migration(migrations.Migration):
    dependencies = [("rounds", "0003_gauge_and_training"), ("people", "0002_append_only")]
    operations = [
        append_only(f"rounds_{table}")
        for table in ("gaugerecipe", "gauging", "gaugedreading", "readiness", "calibrationgrade")
    ]

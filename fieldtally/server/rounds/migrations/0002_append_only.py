"""Readings, deviations and notes are append-only."""

from django.db import migrations

from fieldtally.server.appendonly import append_only


class Migration(migrations.Migration):
    dependencies = [("rounds", "0001_initial"), ("people", "0002_append_only")]
    operations = [append_only("rounds_reading"), append_only("rounds_deviation"), append_only("rounds_lognote")]

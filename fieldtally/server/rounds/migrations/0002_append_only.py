"""Readings, deviations, notes, conditions and guesses are append-only."""

from django.db import migrations

from fieldtally.server.appendonly import append_only


class Migration(migrations.Migration):
    dependencies = [("rounds", "0001_initial"), ("people", "0002_append_only")]
    operations = [append_only(f"rounds_{table}") for table in ("reading", "deviation", "lognote", "condition", "guess")]

"""Openings of the key are append-only."""

from django.db import migrations

from fieldtally.server.appendonly import append_only


class Migration(migrations.Migration):
    dependencies = [("verdict", "0001_initial"), ("people", "0002_append_only")]
    operations = [append_only("verdict_keyopening")]

"""Judgements are append-only."""

from django.db import migrations

from fieldtally.server.appendonly import append_only


class Migration(migrations.Migration):
    dependencies = [("panels", "0001_initial"), ("people", "0002_append_only")]
    operations = [append_only("panels_judgement")]

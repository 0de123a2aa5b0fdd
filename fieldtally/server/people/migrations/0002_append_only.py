"""The function by which append-only tables refuse changes."""

from django.db import migrations

from fieldtally.server.appendonly import REFUSAL


class Migration(migrations.Migration):
    dependencies = [("people", "0001_initial")]
    operations = [REFUSAL]

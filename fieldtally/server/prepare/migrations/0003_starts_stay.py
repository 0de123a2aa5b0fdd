"""When a sample's exposure began stays as it was recorded."""

from django.db import migrations

from fieldtally.server.appendonly import append_only


class Migration(migrations.Migration):
    dependencies = [("prepare", "0002_append_only"), ("people", "0006_chain")]
    operations = [append_only("prepare_exposure")]

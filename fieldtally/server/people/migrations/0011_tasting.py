"""A tasting by itself is a trial of its own kind."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("people", "0010_filed_away")]
    operations = [
        migrations.AddField("trial", "is_tasting", models.BooleanField(default=False, db_default=False)),
    ]

"""A trial names the version of its plan that stands, so that it is read without asking for it first."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("people", "0007_addresses_confirmed")]
    operations = [
        migrations.AddField(
            model_name="trial",
            name="plan_seal",
            field=models.CharField(blank=True, db_default="", default="", max_length=64),
        )
    ]

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("rounds", "0009_readings_fit")]
    operations = [
        migrations.AddField(
            "round", "looked_by", models.CharField(blank=True, db_default="", default="", max_length=80)
        )
    ]

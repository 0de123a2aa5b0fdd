from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("people", "0008_plan_seal"),
        ("plan", "0004_the_version_that_stands"),
        ("rounds", "0006_rooms_of_their_own"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddIndex(
            model_name="reading",
            index=models.Index(fields=["sample", "checkpoint", "outcome"], name="readings_of_a_sample"),
        ),
        migrations.AddIndex(
            model_name="reading",
            index=models.Index(fields=["checkpoint", "outcome", "-stored_at"], name="readings_newest_of_a_look"),
        ),
        migrations.AddIndex(
            model_name="reading",
            index=models.Index(fields=["trial", "-stored_at"], name="readings_newest_of_a_trial"),
        ),
    ]

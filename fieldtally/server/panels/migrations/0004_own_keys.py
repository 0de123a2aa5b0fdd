"""Panels have keys, seals and dates of their own, and may ask over several stimuli."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("panels", "0003_servings_stay")]
    operations = [
        migrations.RemoveConstraint(model_name="material", name="one_material_a_thing"),
        migrations.AddField("assessor", "address", models.EmailField(blank=True, max_length=254, default="")),
        migrations.AddField("assessor", "told_at", models.DateTimeField(null=True)),
        migrations.AddField("assessor", "move", models.CharField(blank=True, db_index=True, max_length=8, default="")),
        migrations.AddField("assessor", "move_until", models.DateTimeField(null=True)),
        migrations.AddField("material", "stimulus", models.PositiveSmallIntegerField(default=0)),
        migrations.AddField("panel", "seal", models.CharField(blank=True, max_length=64, default="")),
        migrations.AddField("panel", "began_with", models.PositiveIntegerField(null=True)),
        migrations.AddField("panel", "opened_at", models.DateTimeField(null=True)),
        migrations.AddField("serving", "stimulus", models.PositiveSmallIntegerField(default=0)),
        migrations.AddField("serving", "fetched", models.PositiveIntegerField(default=0)),
        migrations.AddConstraint(
            "material",
            models.UniqueConstraint(fields=("panel", "thing", "stimulus"), name="one_material_a_thing"),
        ),
    ]

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("log", "0001_initial")]
    operations = [migrations.AddField("condition", "stored_at", models.DateTimeField(null=True))]

"""A file that somebody brings in is an import: its table is called so, also where an account is erased."""

from django.db import migrations

from fieldtally.server.renaming import retold


class Migration(migrations.Migration):
    dependencies = [("share", "0004_bringing_heard_of"), ("people", "0009_words_of_the_field")]
    operations = [
        migrations.RenameModel("Bringing", "Import"),
        migrations.RunSQL(retold("share_bringing", "share_import"), retold("share_import", "share_bringing")),
    ]

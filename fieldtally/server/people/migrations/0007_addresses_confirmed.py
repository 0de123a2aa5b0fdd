"""Addresses of accounts that exist already count as confirmed: they opened them until now."""

from typing import Any

from django.db import migrations


def confirm(apps: Any, schema_editor: Any) -> None:
    user, address = apps.get_model("people", "User"), apps.get_model("account", "EmailAddress")
    address.objects.filter(verified=False).update(verified=True)
    known = address.objects.values_list("user_id", flat=True)
    fresh = user.objects.exclude(pk__in=known).exclude(email="").values_list("pk", "email")
    address.objects.bulk_create(address(user_id=pk, email=email, verified=True, primary=True) for pk, email in fresh)


class Migration(migrations.Migration):
    dependencies = [("people", "0006_chain"), ("account", "0009_emailaddress_unique_primary_email")]
    operations = [migrations.RunPython(confirm, migrations.RunPython.noop)]

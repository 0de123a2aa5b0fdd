"""Let the photo gauge read the practice pictures of the demo, and keep what it reads beside the demo."""

import json
import os

import django

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fieldtally.server.settings")
    os.environ.setdefault("FT_SECRET", "unused")
    django.setup()
    from fieldtally.server.demo import practice

    read = {practice.name_of(one.truth, one.seed): practice.read_by_gauge(one) for one in practice.items()}
    practice.SHIPPED.write_text(json.dumps(read, indent=0) + "\n")

"""How long 100,000 readings take from a table to a trial; run by ./bench, on a database of its own."""

from __future__ import annotations

import os
import random
import time

READINGS, AIM = 100_000, 10.0


def table() -> bytes:
    """500 samples of 5 treatments in 10 blocks, 10 outcomes at 20 looks, a row a reading."""
    drawn = random.Random(1)  # noqa: S311
    rows = ["sample,treatment,block,day,outcome,value"]
    rows += [
        f"p{sample},t{sample % 5},b{sample % 10},{day},outcome {outcome},{drawn.random() * 10:.3f}"
        for sample in range(500)
        for day in range(20)
        for outcome in range(10)
    ]
    return "\n".join(rows).encode()


def main() -> None:
    """Print it."""
    os.environ["FT_DB_NAME"] = "bench_bringing"
    from fieldtally.server.ready import make_ready

    make_ready()
    from fieldtally.server.people.models import User
    from fieldtally.server.share import importing
    from fieldtally.server.share.models import Import

    user = User.objects.filter(is_active=True).first()
    assert user is not None
    content = table()
    begun = time.perf_counter()
    row = importing.keep(user, "big.csv", content)
    Import.objects.filter(pk=row.pk).update(state="running")
    importing.carry_in.func(str(row.pk))
    taken = time.perf_counter() - begun
    row.refresh_from_db()
    print(f"a table of {READINGS:,} readings, from the file to the trial ({row.state}): {taken:.1f} s (aim: {AIM:g})")


if __name__ == "__main__":
    main()

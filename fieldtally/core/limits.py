"""How long texts may be that people write, in letters: one place, also for what the browser is told."""

LONGEST_REASON = 500
LONGEST_NOTE = 2_000
LONGEST_DEVICE = 60
LONGEST_REMARK = 500

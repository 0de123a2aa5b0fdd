"""Doors of the rounds stage: the shelf and the course, the board, scoring, the log."""

from ninja import Router

from fieldtally.server.rounds.doors.board import router as board
from fieldtally.server.rounds.doors.course import router as course
from fieldtally.server.rounds.doors.log import router as log
from fieldtally.server.rounds.doors.scoring import router as scoring

router = Router(tags=["rounds"])
for part in (course, board, scoring, log):
    router.add_router("", part)

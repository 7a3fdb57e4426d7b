"""`grainstack undo`: takes back the last change of a plan."""

from pathlib import Path

from grainstack.cli.command_requests import UndoRequest
from grainstack.cli.failing import say
from grainstack.plan.file.history import take_back
from grainstack.requests import Requests


def run(requests: Requests) -> None:
    """Gives a plan the version it had before the program last wrote it."""
    plan = Path(requests[UndoRequest].plan)
    take_back(plan)
    say(f"{plan} is as it was before its last change.")

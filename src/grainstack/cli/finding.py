"""What commands that look for something to be known have in common."""

from grainstack.quick import dataclass
from grainstack.words import Request, switch


@dataclass(frozen=True, slots=True)
class FindingRequest(Request):
    """How findings are told."""

    strict: bool = switch("Fail if anything is found: exit code 1 for changes and trace, 3 for check.", group="Output")
    json: bool = switch("Print JSON.", group="Output")

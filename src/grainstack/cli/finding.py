"""What commands that look for something to be known have in common."""

from grainstack.words import Request, switch


class FindingRequest(Request, frozen=True):
    """How findings are told."""

    strict: bool = switch("Fail if anything is found: exit code 1 for changes and trace, 3 for check.", group="Output")
    json: bool = switch("Print JSON.", group="Output")

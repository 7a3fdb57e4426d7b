"""The program's start: `grainstack`, and `python -m grainstack`."""

import signal
from importlib import import_module

if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
    signal.signal(signal.SIGINT, signal.SIG_DFL)  # while the program loads, an interrupt ends it without a traceback


def main() -> None:
    """Runs the command line of this process."""
    import_module("grainstack.cli.main").main()


if __name__ == "__main__":
    main()

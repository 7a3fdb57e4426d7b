"""The program's start: `grainstack`, and `python -m grainstack`."""

from importlib import import_module

signal = import_module("_signal")  # the part that Python starts with: an interrupt could hit the making of the rest
if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
    signal.signal(signal.SIGINT, signal.SIG_DFL)  # while the program loads, an interrupt ends it without a traceback


def main() -> None:
    """Runs the command line of this process."""
    import_module("grainstack.cli.main").main()


if __name__ == "__main__":
    main()

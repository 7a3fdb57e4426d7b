"""Fuzzing led by what an input reaches: `python -m tests.fuzzing TARGET SECONDS`, or all targets without a name.

Atheris instruments the program's modules; what it has learnt stays in the folder `.fuzzing` for the next time. An input
that fails is kept there and printed; it becomes a seed in `seeds.py` once it is mended.
"""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

_KEPT = Path(__file__).parents[2] / ".fuzzing"
_SECONDS = "60"
_LONGEST = 4096  # bytes of an input


def _fuzz(name: str, seconds: str) -> None:
    import atheris  # noqa: PLC0415 - an optional part

    with atheris.instrument_imports(include=["grainstack"]):
        from tests.fuzzing.targets import fed  # noqa: PLC0415 - instrumented
    from tests.fuzzing.seeds import SEEDS  # noqa: PLC0415

    corpus = _KEPT / name
    corpus.mkdir(parents=True, exist_ok=True)
    for number, text in enumerate(SEEDS[name]):
        (corpus / f"seed{number}").write_bytes(text.encode("utf-8", "surrogatepass"))
    folder = Path(tempfile.mkdtemp(dir="/dev/shm" if Path("/dev/shm").is_dir() else None))  # noqa: S108 - fast
    options = [
        f"-max_total_time={seconds}",
        f"-max_len={_LONGEST}",
        f"-artifact_prefix={_KEPT}/{name}-",
        "-print_final_stats=1",
    ]
    atheris.Setup([sys.argv[0], str(corpus), *options], lambda data: fed(name, data, folder))
    atheris.Fuzz()


def main() -> int:
    """Fuzzes a target, or all of them one after the other; how many failed."""
    names, seconds = sys.argv[1:-1] or sys.argv[1:], sys.argv[-1] if sys.argv[-1].isdigit() else _SECONDS
    if names and not names[0].isdigit():
        _fuzz(names[0], seconds)
        return 0
    from tests.fuzzing.seeds import SEEDS  # noqa: PLC0415

    failed = [
        name
        for name in SEEDS
        if subprocess.run(
            [sys.executable, "-m", "tests.fuzzing", name, seconds], check=False, env=os.environ
        ).returncode
    ]
    print(f"Failed: {', '.join(failed) or 'none'}.")  # noqa: T201 - for whoever runs it
    return len(failed)


if __name__ == "__main__":
    sys.exit(main())

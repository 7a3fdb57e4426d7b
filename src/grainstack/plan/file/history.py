"""Earlier versions of a plan, kept beside it whenever the program writes it, and taken back one by one."""

from pathlib import Path

from grainstack.digests import digest_of_bytes
from grainstack.plan.file.plan import PlanError
from grainstack.whole_files import make_folder, write_whole

_MOST = 50  # versions: further back, nobody looks for one


def keep(plan: Path, written: str) -> None:
    """Keeps a plan as it is before it is written anew; nothing where there is none yet.

    Args:
        plan: The plan.
        written: What it is about to hold, by which it is known later whether somebody changed it since.

    Raises:
        OutputError: The version cannot be written.
    """
    if not plan.exists():
        return
    folder = _folder(plan)
    make_folder(folder)
    kept = _versions(folder)
    number = int(kept[-1].name.partition("-")[0]) + 1 if kept else 1
    write_whole(folder / f"{number:06d}-{digest_of_bytes(written.encode())}.toml", plan.read_bytes())
    for old in kept[: max(len(kept) + 1 - _MOST, 0)]:
        old.unlink()


def take_back(plan: Path) -> Path:
    """Gives a plan its last earlier version, which is then kept no longer.

    Args:
        plan: The plan.

    Returns:
        The file that the version stood in.

    Raises:
        PlanError: There is none, or the plan was changed by somebody else since.
        OutputError: The plan cannot be written.
    """
    kept = _versions(_folder(plan))
    if not kept:
        raise PlanError(f"There is no earlier version of {plan}.", "Only what the program wrote can be taken back.")
    last = kept[-1]
    if plan.exists() and digest_of_bytes(plan.read_bytes()) != last.stem.partition("-")[2]:
        raise PlanError(
            f"{plan} was changed since the program last wrote it, and that would be lost.",
            f"The version before is {last}: take from it what you need.",
        )
    write_whole(plan, last.read_bytes())
    last.unlink()
    if len(kept) == 1:
        last.parent.rmdir()
    return last


def _folder(plan: Path) -> Path:
    return plan.with_name(f".{plan.name}.history")


def _versions(folder: Path) -> list[Path]:
    """The versions kept, the oldest first."""
    return sorted(folder.glob("[0-9]*-*.toml")) if folder.is_dir() else []

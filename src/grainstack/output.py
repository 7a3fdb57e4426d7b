"""Writing files whole or not at all."""

import os
import tempfile
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from grainstack.errors import OutputError, RequestError


def check_targets(targets: Iterable[Path], inputs: Iterable[Path], endings: Iterable[str]) -> None:
    """Refuses targets that could not be written, before any work is done.

    Args:
        targets: The files to write.
        inputs: The files being read; none of them may be a target.
        endings: The file endings that can be written, such as `.svg`.

    Raises:
        RequestError: An unknown ending, a folder, a missing folder, a target named twice or one that is an input.
    """
    known = sorted(endings)
    read = {path.resolve() for path in inputs}
    seen: set[Path] = set()
    for target in targets:
        if target.suffix.lower() not in known:
            said = f"`{target.suffix}`" if target.suffix else "without an ending"
            raise RequestError(f"Cannot write {target}: the ending {said} is not known.", f"Use {', '.join(known)}.")
        if target.is_dir():
            raise RequestError(f"Cannot write {target}: it is a folder.", "Name a file in it.")
        if not target.parent.is_dir():
            raise RequestError(f"Cannot write {target}: there is no folder {target.parent}.", "Make the folder first.")
        if target.resolve() in read:
            raise RequestError(
                f"Cannot write {target}: it is being read.", "Inputs are never changed; use another name."
            )
        if target.resolve() in seen:
            raise RequestError(f"{target} is named twice as an output.", "Name each output once.")
        seen.add(target.resolve())


def write_whole(target: Path, content: bytes) -> None:
    """Writes a file by way of a temporary one beside it, so that nobody ever sees half of it.

    Args:
        target: The file.
        content: Its bytes.

    Raises:
        OutputError: The file cannot be written; a file that was there before is untouched.
    """
    with streamed(target) as file:
        file.write(content)


def check_place(target: Path) -> None:
    """Refuses a file that could not be written where it is to go, whether or not its folder is there already.

    Args:
        target: The file.

    Raises:
        OutputError: It is a folder, or a file stands where its folder would be, or nothing may be written there.
    """
    if target.is_dir():
        raise OutputError(f"Cannot write {target}: it is a folder.", "Remove it, or name another folder.")
    there = next(folder for folder in target.absolute().parents if folder.exists() or folder.is_symlink())
    if not there.is_dir():
        raise OutputError(f"Cannot write {target}: {there} is no folder.", "Remove it, or name another folder.")
    if not os.access(there, os.W_OK):
        raise OutputError(f"Cannot write {target}: {there} may not be written to.", "Name another folder.")


def make_folder(folder: Path) -> None:
    """Makes a folder if it is missing, and those it lies in.

    Args:
        folder: The folder.

    Raises:
        OutputError: It cannot be made.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as reason:
        raise OutputError(f"Cannot make the folder {folder}: {reason.strerror}.", "Name another.") from reason


def write_all(targets: Sequence[Path], contents: Sequence[bytes]) -> None:
    """Writes some files, each whole.

    Args:
        targets: The files.
        contents: Their bytes, in the same order.

    Raises:
        OutputError: A file that cannot be written; those before it are written.
    """
    for target, content in zip(targets, contents, strict=True):
        write_whole(target, content)


@contextmanager
def streamed(target: Path) -> Iterator[BinaryIO]:
    """A file to write piece by piece that takes the target's place only once all of it is written.

    Raises:
        OutputError: The file cannot be written; a file that was there before is untouched.
    """
    try:
        handle, name = tempfile.mkstemp(dir=target.parent, prefix=f".{target.name}.", suffix=".part")
    except OSError as reason:
        raise OutputError(f"Cannot write {target}: {reason.strerror}.") from reason
    temporary = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            yield file
        temporary.chmod(_usual_mode(target))
        temporary.replace(target)
    except BaseException as reason:
        temporary.unlink(missing_ok=True)
        if isinstance(reason, OSError):
            raise OutputError(f"Cannot write {target}: {reason.strerror or reason}.") from reason
        raise


def _usual_mode(target: Path) -> int:
    """The permissions the file has already, or those an ordinarily opened file would get."""
    if target.exists():
        return target.stat().st_mode & 0o777
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask

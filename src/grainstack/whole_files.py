"""Writing files whole or not at all."""

import errno
import os
import tempfile
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from glob import escape
from pathlib import Path
from typing import BinaryIO

from grainstack.errors import OutputError, RequestError

_PART = ".part"
_LONGEST = 255  # bytes of a name that file systems take
_NAMED = 60  # bytes of a target's name that its temporary file bears, for whoever finds one
_NO_WAITING = {errno.EINVAL, errno.ENOSYS, errno.ENOTSUP}  # said by file systems that cannot tell
_REMEDIES = {
    errno.EACCES: "Write to a folder of your own, or ask for the right to write there.",
    errno.EPERM: "Write to a folder of your own, or ask for the right to write there.",
    errno.EROFS: "Write to a folder that is not read-only.",
    errno.ENOSPC: "Make room on that disk, or write to another one.",
    errno.EDQUOT: "Make room on that disk, or write to another one.",
    errno.ENAMETOOLONG: "Give it a shorter name.",
}


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
    inputs = list(inputs)
    read = {path.resolve() for path in inputs}
    same = {_identity(path) for path in inputs} - {None}
    seen: set[Path] = set()
    for target in targets:
        if target.suffix.lower() not in known:
            what = f"the ending `{target.suffix}` is not known" if target.suffix else "its name has no ending"
            raise RequestError(f"Cannot write {target}: {what}.", f"Use {', '.join(known)}.")
        if len(os.fsencode(target.name)) > _LONGEST:
            raise RequestError(f"Cannot write {target}: its name is too long.", "Give it a shorter one.")
        if target.is_dir():
            raise RequestError(f"Cannot write {target}: it is a folder.", "Name a file in it.")
        if not target.parent.is_dir():
            raise RequestError(f"Cannot write {target}: there is no folder {target.parent}.", "Make the folder first.")
        if target.resolve() in read or _identity(target) in same:
            raise RequestError(
                f"Cannot write {target}: it is being read.", "Inputs are never changed; use another name."
            )
        if target.resolve() in seen:
            raise RequestError(f"{target} is named twice as an output.", "Name each output once.")
        seen.add(target.resolve())


def _identity(path: Path) -> tuple[int, int] | None:
    """What a file is on its disk, by whatever name; None where there is none."""
    try:
        about = path.stat()
    except OSError:
        return None
    return about.st_dev, about.st_ino


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

    A link is followed as long as it stays in its folder. A pipe or a device is written to: nothing can take its place.

    Raises:
        OutputError: The file cannot be written, or is a link out of its folder; a file that was there before is
            untouched.
    """
    target = _followed(target)
    if target.exists() and not target.is_file():
        with _explained(target), target.open("wb") as stream:
            yield stream
        return
    with _explained(target):
        _remove_left_over(target)
        handle, name = tempfile.mkstemp(dir=target.parent, prefix=_prefix(target, os.getpid()), suffix=_PART)
    temporary = Path(name)
    try:
        with _explained(target):
            with os.fdopen(handle, "wb") as file:
                yield file
                _keep(file)
            temporary.chmod(_usual_mode(target))
            temporary.replace(target)
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise


def _keep(file: BinaryIO) -> None:
    """Waits until the disk has all of a file: a computer that stops then has the old one or the new one whole."""
    file.flush()
    try:
        os.fsync(file.fileno())
    except OSError as reason:
        if reason.errno not in _NO_WAITING:
            raise


def _followed(target: Path) -> Path:
    """The file a link leads to.

    Raises:
        OutputError: It lies in another folder.
    """
    if not target.is_symlink():
        return target
    real = target.resolve()
    if not real.is_relative_to(target.parent.resolve()):
        raise OutputError(f"Cannot write {target}: it is a link to {real}.", "Remove the link, or name that file.")
    return real


@contextmanager
def _explained(target: Path) -> Iterator[None]:
    """Tells what a system says of a file it cannot write, and what to do about it."""
    try:
        yield
    except OSError as reason:
        remedy = _REMEDIES.get(reason.errno or 0, "")
        raise OutputError(f"Cannot write {target}: {reason.strerror or reason}.", remedy) from reason


def _prefix(target: Path, process: int | str) -> str:
    """How the temporary file of a target begins: short enough for every file system, whatever the target is called."""
    return f".{target.name.encode()[:_NAMED].decode('utf-8', 'ignore')}.{process}."


def _remove_left_over(target: Path) -> None:
    """Removes what a run left that was killed while it wrote this file."""
    begins = _prefix(target, "")[:-1]
    for left in target.parent.glob(f"{escape(begins)}*{_PART}"):
        process = left.name[len(begins) :].partition(".")[0]
        if process.isdigit() and not _is_running(int(process)):
            left.unlink(missing_ok=True)


def _is_running(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def _usual_mode(target: Path) -> int:
    """The permissions the file has already, or those an ordinarily opened file would get."""
    if target.exists():
        return target.stat().st_mode & 0o777
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask

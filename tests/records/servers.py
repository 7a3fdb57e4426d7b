"""Real PostgreSQL servers for tests, started from the Debian package."""

import os
import shutil
import socket
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

PROGRAMS = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"))


@contextmanager
def postgresql(password: str = "", certificate: tuple[Path, Path] | None = None) -> Iterator[str]:
    """A server whose user is `reader`; gives the address of its database without a password.

    Args:
        password: What the user has to say; empty where nothing is asked.
        certificate: The certificate of the server and its key, where it is to speak TLS and nothing else.
    """
    programs = PROGRAMS[-1].parent
    folder = Path(tempfile.mkdtemp(prefix="pg"))
    secret = folder / "secret"
    secret.write_text(password or "none", "utf-8")
    settings = f"-c listen_addresses=127.0.0.1 -c unix_socket_directories={folder} -c fsync=off"
    if certificate:
        for kind, file in zip(("cert", "key"), certificate, strict=True):
            shutil.copy(file, folder / kind)
            (folder / kind).chmod(0o600)
        settings += f" -c ssl=on -c ssl_cert_file={folder}/cert -c ssl_key_file={folder}/key"
    as_user: list[str | Path] = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []
    if as_user:
        for one in (folder, *folder.iterdir()):
            shutil.chown(one, "postgres")
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    data, method = folder / "data", "scram-sha-256" if password else "trust"
    made: list[str | Path] = [
        programs / "initdb",
        "-D",
        data,
        "-A",
        method,
        "-U",
        "reader",
        "-E",
        "UTF8",
        "--no-locale",
    ]
    subprocess.run([*as_user, *made, f"--pwfile={secret}"], check=True, capture_output=True)
    if certificate:
        subprocess.run([*as_user, "sed", "-i", "s/^host /hostssl /", data / "pg_hba.conf"], check=True)
    control: list[str | Path] = [*as_user, programs / "pg_ctl", "-D", data, "-w"]
    start: list[str | Path] = ["-o", f"-p {port} {settings}", "-l", folder / "log", "start"]
    subprocess.run([*control, *start], check=True, capture_output=True)
    try:
        yield f"postgresql://reader@127.0.0.1:{port}/postgres"
    finally:
        subprocess.run([*control, "-m", "immediate", "stop"], check=True, capture_output=True)
        shutil.rmtree(folder)

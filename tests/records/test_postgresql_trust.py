"""What a PostgreSQL server is trusted with, and what it is kept from: the installed program on real servers."""

import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

from grainstack.records.sources.secrets import bare, holds_password, without_password
from tests.program.conftest import Run, folder, run
from tests.records.servers import PROGRAMS, postgresql
from tests.records.test_postgresql import fill

__all__ = ["folder", "run"]

pytestmark = [
    pytest.mark.soak,
    pytest.mark.skipif(not PROGRAMS, reason="PostgreSQL is not installed (Debian package postgresql)"),
]
PASSWORD = "sesame-open-7"  # noqa: S105 - of a server that lives as long as these tests
ADDRESSES = {
    "postgresql://reader:sesame@h/db#t": "postgresql://reader:…@h/db#t",
    "postgresql://reader:se/same@h/db": "postgresql://reader:…@h/db",
    "postgresql://reader@h/db?sslmode=require&password=sesame#t": (
        "postgresql://reader@h/db?sslmode=require&password=…#t"
    ),
    "postgresql://reader@h/db?sslpassword=sesame": "postgresql://reader@h/db?sslpassword=…",
    "postgresql://reader@h:5432/db?sslmode=require": "postgresql://reader@h:5432/db?sslmode=require",
    "postgresql://h:5432/db": "postgresql://h:5432/db",
}


@pytest.fixture(scope="module")
def certificate(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    """A certificate for 127.0.0.1 that vouches for itself, and its key."""
    place = tmp_path_factory.mktemp("certificate")
    made, key = place / "cert.pem", place / "key.pem"
    asked = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=127.0.0.1"]
    asked += ["-addext", "subjectAltName=IP:127.0.0.1", "-keyout", str(key), "-out", str(made)]
    subprocess.run(asked, check=True, capture_output=True)
    return made, key


@pytest.fixture(scope="module")
def address(certificate: tuple[Path, Path]) -> Iterator[str]:
    """A server that asks for a password and speaks TLS alone."""
    with pytest.MonkeyPatch.context() as patch, postgresql(PASSWORD, certificate) as address:
        patch.setenv("PGPASSWORD", PASSWORD)
        fill(address)
        patch.undo()
        yield address


@pytest.fixture
def ask(run: Run, monkeypatch: pytest.MonkeyPatch) -> Run:
    """Runs `grainstack` with settings in its environment."""

    def asking(*arguments: str, **environment: str) -> "subprocess.CompletedProcess[str]":
        with monkeypatch.context() as patch:
            for name, value in environment.items():
                patch.setenv(name, value)
            return run(*arguments)

    return asking


@pytest.mark.parametrize(
    ("query", "said"),
    [
        ("SELECT nextval('numbers')", "calls `nextval`"),
        ("SELECT lo_export(1, '/tmp/grainstack-export')", "calls `lo_export`"),
        ("SELECT \"lo_export\"(1, '/tmp/grainstack-export')", "calls `lo_export`"),
        ("SELECT pg_catalog.LO_EXPORT(1, '/tmp/grainstack-export')", "calls `lo_export`"),
        ("SELECT U&\"lo\\005fexport\"(1, '/tmp/grainstack-export')", "Call it by a plain name."),
        ("SELECT * FROM people WHERE lo_import('/etc/passwd') > 0", "calls `lo_import`"),
        ("SELECT pg_terminate_backend(1)", "calls `pg_terminate_backend`"),
        ("SELECT set_config('transaction_read_only', 'off', false)", "calls `set_config`"),
        ("SELECT pg_sleep(1000)", "calls `pg_sleep`"),
        ("COPY people TO PROGRAM 'touch /tmp/grainstack-export'", "would do more than read"),
        ("SELECT 1 AS n; DROP TABLE people", "would do more than read"),
        ("SELECT * INTO copied FROM people", "would do more than read"),
        ("WITH gone AS (DELETE FROM people RETURNING *) SELECT * FROM gone", "would do more than read"),
        ("SELECT 1 AS n) AS records; DROP TABLE people; --", ""),
        ("SELECT * FROM people FOR UPDATE", "read-only transaction"),
    ],
)
def test_nothing_is_written_through_a_query(query: str, said: str, ask: Run, address: str) -> None:
    done = ask("look", address, "--query", query, PGPASSWORD=PASSWORD)
    assert done.returncode in (1, 2), done.stdout
    assert said in done.stderr
    assert "Traceback" not in done.stderr
    assert not Path("/tmp/grainstack-export").exists()  # noqa: S108 - where it would be written
    assert ask("look", f"{address}#people", PGPASSWORD=PASSWORD).returncode == 0


def test_functions_that_change_nothing_may_be_called(ask: Run, address: str) -> None:
    query = "SELECT upper(ticket) AS t, date_trunc('month', now()) AS m, random() AS r, md5(ticket) AS d FROM people"
    done = ask("table", address, "--query", query, "--by", "t", PGPASSWORD=PASSWORD)
    assert done.returncode == 0, done.stderr


def test_a_statement_has_a_time_limit(ask: Run, address: str) -> None:
    query = "SELECT count(*) AS n FROM generate_series(1, 200000000) AS s, people"
    limit = {"PGPASSWORD": PASSWORD, "PGOPTIONS": "-c statement_timeout=300"}
    done = ask("look", address, "--query", query, **limit)
    assert done.returncode == 1
    assert "statement timeout" in done.stderr
    assert "PGOPTIONS" in done.stderr
    shown = "SELECT current_setting('statement_timeout') AS limit_of_all"
    assert "1h" in ask("look", address, "--query", shown, PGPASSWORD=PASSWORD).stdout
    assert "300ms" in ask("look", address, "--query", shown, **limit).stdout


def test_tls_is_spoken_as_the_address_asks(ask: Run, address: str, certificate: tuple[Path, Path]) -> None:
    environment = {"PGPASSWORD": PASSWORD}
    spoken = "SELECT version AS tls FROM pg_stat_ssl WHERE pid = pg_backend_pid()"
    checked = f"{address}?sslmode=verify-full&sslrootcert={certificate[0]}"
    done = ask("look", checked, "--query", spoken, **environment)
    assert "TLSv1" in done.stdout, done.stderr
    for refused in (f"{address}?sslmode=disable", f"{address}?sslmode=verify-full&sslrootcert=/nowhere"):
        done = ask("look", f"{refused}#people", **environment)
        assert done.returncode == 1
        assert "sslmode" in done.stderr


def test_passwords_come_from_where_libpq_takes_them(ask: Run, address: str, folder: Path) -> None:
    asked = ask("look", f"{address}#people")
    assert asked.returncode == 1
    assert "PGPASSWORD" in asked.stderr
    wrong = ask("look", f"{address}#people", PGPASSWORD="wrong-one")
    assert wrong.returncode == 1
    assert "wrong-one" not in wrong.stderr
    place = address.partition("@")[2]
    host, port, name = place.partition(":")[0], place.partition(":")[2].partition("/")[0], place.partition("/")[2]
    kept = folder / "pgpass"
    kept.write_text(f"{host}:{port}:{name}:reader:{PASSWORD}\n", "utf-8")
    kept.chmod(0o600)
    assert ask("look", f"{address}#people", PGPASSFILE=str(kept)).returncode == 0
    service = folder / "services"
    lines = [f"host={host}", f"port={port}", f"dbname={name}", "user=reader", f"password={PASSWORD}"]
    service.write_text("\n".join(["[survey]", *lines]) + "\n", "utf-8")
    done = ask("look", "postgresql:///?service=survey#people", PGSERVICEFILE=str(service))
    assert done.returncode == 0, done.stderr


def test_a_password_is_in_nothing_that_is_written(ask: Run, address: str, folder: Path) -> None:
    (folder / "none.toml").write_text("", "utf-8")
    for number, written in enumerate((address.replace("@", f":{PASSWORD}@"), f"{address}?password={PASSWORD}")):
        outs = [f"out{number}.{ending}" for ending in ("svg", "png", "pdf", "html")]
        asked = ["bar", f"{written}#people", "--by", "ticket", "--codebook", "none.toml"]
        done = ask(*asked, *(part for out in outs for part in ("--out", out)))
        assert done.returncode == 0, done.stderr
        table = ask("table", *asked[1:], "--out", f"out{number}.json", "--out", f"out{number}.xlsx")
        assert table.returncode == 0, table.stderr
        looked = ask("look", f"{written}#people")
        traced = ask("trace", f"out{number}.svg")
        told = done.stdout + done.stderr + table.stdout + table.stderr + looked.stdout + looked.stderr + traced.stdout
        assert PASSWORD not in told
        for command in (
            (*asked, "--out", "x.svg", "--save-plan", f"plan{number}.toml"),
            ("codebook", f"{written}#people", "--out", f"codebook{number}.toml"),
            ("derive", f"{written}#people", "--out", f"derived{number}.csv"),
            ("topline", f"{written}#people", "--out", f"topline{number}.html"),
            ("table", f"{written}#people", "--by", "tickett"),
            ("table", f"{written}#people", "--by", "ticket", "--explain"),
        ):
            done = ask(*command)
            assert PASSWORD not in done.stdout + done.stderr, command
    for file in folder.glob("*"):
        if file.is_file() and file.name != "services":
            assert PASSWORD.encode() not in file.read_bytes(), file.name


@pytest.mark.parametrize("written", ADDRESSES)
def test_passwords_are_taken_out_of_addresses(written: str) -> None:
    assert without_password(written) == ADDRESSES[written]
    assert holds_password(written) == (ADDRESSES[written] != written)
    assert bare(written) == ADDRESSES[written].replace(":…@", "@").replace("&password=…", "").replace(
        "?sslpassword=…", ""
    )

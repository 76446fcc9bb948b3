"""Copies of the whole shop in one file: what PostgreSQL's own tools write, with a page that says
what is in it.

The file is a ZIP: ``manifest.json`` and ``shop.dump`` (pg_dump's custom form, packed already). A
copy is checked after it was written, and before it is put back. Putting back never removes
anything: the shop is built beside the one that is there and takes its name.
"""

from __future__ import annotations

import hashlib
import json
import os
import subprocess
import tempfile
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit, urlunsplit

import psycopg
from psycopg import sql

from wedgecraft import __version__
from wedgecraft.service.state import database_url, prepare_database, prepare_state
from wedgecraft.store.cluster import Cluster, binary
from wedgecraft.store.database import Database

_FORMAT = "wedgecraft backup"
_TABLES = ("person", "job", "run", "shop_entry", "upload", "change")
_NAMES = {
    "person": "accounts",
    "job": "jobs",
    "run": "designs",
    "shop_entry": "shop entries",
    "upload": "solids",
    "change": "changes",
}


class CopyError(RuntimeError):
    """The copy could not be made or used; the message says why, and what would work."""


@dataclass(frozen=True)
class Manifest:
    """What is in a copy: how many rows of each table, and the dump's fingerprint."""

    format: str
    version: str
    made: str
    tables: str
    rows: dict[str, int]
    sha256: str

    def said(self) -> str:
        """In words."""
        return ", ".join(
            f"{self.rows[table]} {_NAMES[table]}" for table in _TABLES[:4] if table in self.rows
        )


@contextmanager
def _standing() -> Iterator[str]:
    """The database's address while its server runs: started for the occasion where it stood
    still.
    """
    own = None if os.environ.get("WEDGECRAFT_DATABASE") else Cluster(prepare_state() / "postgres")
    started = own is not None and own.start()
    try:
        yield database_url()
    finally:
        if own is not None and started:
            own.stop()


def backup(file: Path) -> Manifest:
    """Write the shop into ``file``, whole or not at all, and read it back. Raises CopyError."""
    beside = file.with_name(f".{file.name}.{os.getpid()}")
    try:
        with (
            _standing() as url,
            tempfile.TemporaryDirectory(dir=file.resolve().parent, prefix=".wedgecraft-") as folder,
        ):
            dump = Path(folder) / "shop.dump"
            with psycopg.connect(url) as connection:
                # One look at everything, while people go on working: rows counted are the rows
                # dumped.
                connection.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY")
                shot = connection.execute("SELECT pg_export_snapshot()").fetchone()
                rows = {
                    table: _count(connection, table)
                    for table in _TABLES
                    if _is_there(connection, table)
                }
                tables = connection.execute("SELECT version_num FROM alembic_version").fetchone()
                _tool(
                    "pg_dump",
                    url,
                    "--format=custom",
                    f"--snapshot={shot[0] if shot else ''}",
                    f"--file={dump}",
                )
            manifest = Manifest(
                _FORMAT,
                __version__,
                datetime.now(UTC).isoformat(timespec="seconds"),
                str(tables[0] if tables else ""),
                rows,
                _fingerprint(dump),
            )
            with zipfile.ZipFile(beside, "w", zipfile.ZIP_STORED) as out:
                out.writestr("manifest.json", json.dumps(asdict(manifest), indent=1))
                out.write(dump, "shop.dump")
            with beside.open("rb") as written:
                os.fsync(written.fileno())
            checked(beside)
            beside.chmod(0o600)  # it holds password hashes
            os.replace(beside, file)
    except (OSError, psycopg.Error) as error:
        raise CopyError(f"The copy was not made: {_cause(error)}.") from None
    finally:
        beside.unlink(missing_ok=True)
    return manifest


def _is_there(connection: psycopg.Connection[Any], table: str) -> bool:
    """A shop of an earlier version has fewer tables."""
    row = connection.execute("SELECT to_regclass(%s)", [table]).fetchone()
    return row is not None and row[0] is not None


def _count(connection: psycopg.Connection[Any], table: str) -> int:
    row = connection.execute(
        sql.SQL("SELECT count(*) FROM {}").format(sql.Identifier(table))
    ).fetchone()
    return int(row[0]) if row else 0


def _cause(error: OSError | psycopg.Error) -> str:
    """What went wrong, without what the database says to programmers."""
    if isinstance(error, OSError):
        return (error.strerror or "the file could not be written").lower()
    return (
        "the database is away"
        if isinstance(error, psycopg.OperationalError)
        else "the database would not have it"
    )


def checked(file: Path) -> Manifest:
    """What a copy holds, once all of it was read and found whole. Raises CopyError."""
    try:
        with zipfile.ZipFile(file) as copy, tempfile.TemporaryDirectory() as folder:
            manifest = Manifest(**json.loads(copy.read("manifest.json")))
            dump = Path(copy.extract("shop.dump", folder))
            if manifest.format != _FORMAT or _fingerprint(dump) != manifest.sha256:
                raise CopyError(
                    f"{file} is damaged: what it holds is not what was written. Use another copy."
                )
            _tool("pg_restore", None, "--file=/dev/null", str(dump))
    except (OSError, ValueError, TypeError, KeyError, zipfile.BadZipFile):
        raise CopyError(
            f"{file} is no copy of a shop, or is cut short. Use a file that `wedgecraft backup`"
            " wrote."
        ) from None
    return manifest


def restore(file: Path) -> tuple[Manifest, str | None]:
    """Put a copy back; what it held, and the name under which what was there is kept. Raises
    CopyError.
    """
    manifest = checked(file)
    with _standing() as url, zipfile.ZipFile(file) as copy, tempfile.TemporaryDirectory() as folder:
        dump = copy.extract("shop.dump", folder)
        name = urlsplit(url).path.lstrip("/")
        stamp = datetime.now(UTC).strftime("%Y%m%d%H%M%S%f")
        fresh, kept = f"{name}_coming_{stamp}", f"{name}_before_{stamp}"
        try:
            with psycopg.connect(_named(url, "postgres"), autocommit=True) as server:
                server.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(fresh)))
                try:
                    _tool("pg_restore", _named(url, fresh), "--no-owner", "--exit-on-error", dump)
                    database = Database(_named(url, fresh))
                    prepare_database(
                        database, demo=False
                    )  # a copy of an earlier version is brought up to date
                    database.close()
                    _check_rows(_named(url, fresh), manifest)
                    had = _swap(server, name, fresh, kept)
                except BaseException:
                    with suppress(psycopg.Error):
                        server.execute(
                            sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(
                                sql.Identifier(fresh)
                            )
                        )
                    raise
        except psycopg.Error as error:
            raise CopyError(
                f"The copy was not put back, and nothing was changed: {_cause(error)}."
            ) from None
    return manifest, kept if had else None


def _check_rows(url: str, manifest: Manifest) -> None:
    with psycopg.connect(url) as connection:
        for table in ("person", "job", "shop_entry"):
            if _count(connection, table) != manifest.rows.get(table, 0):
                raise CopyError(
                    f"Of table {table} not every row came back; nothing was changed. Use another"
                    " copy."
                )


def _swap(server: psycopg.Connection[Any], name: str, fresh: str, kept: str) -> bool:
    """Give the new database the name of the one that is there; true when there was one. Who is
    connected connects again by itself.
    """
    had = (
        server.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name]).fetchone()
        is not None
    )
    rename = sql.SQL("ALTER DATABASE {} RENAME TO {}")
    if had:
        server.execute(
            sql.SQL("ALTER DATABASE {} ALLOW_CONNECTIONS false").format(sql.Identifier(name))
        )
        for _ in range(50):
            server.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = ANY(%s)",
                [[name, fresh]],
            )
            try:
                server.execute(rename.format(sql.Identifier(name), sql.Identifier(kept)))
                break
            except psycopg.errors.ObjectInUse:
                continue
        server.execute(
            sql.SQL("ALTER DATABASE {} ALLOW_CONNECTIONS true").format(sql.Identifier(kept))
        )
    server.execute(rename.format(sql.Identifier(fresh), sql.Identifier(name)))
    return had


def _named(url: str, name: str) -> str:
    return urlunsplit(urlsplit(url)._replace(path=f"/{name}"))


def _fingerprint(file: Path) -> str:
    with file.open("rb") as read:
        return hashlib.file_digest(read, "sha256").hexdigest()


def _tool(program: str, url: str | None, *arguments: str) -> None:
    """One of PostgreSQL's own, with the password in its environment, not among its arguments for
    everybody to see. Raises CopyError.
    """
    environment, options = dict(os.environ), []
    if url is not None:
        parts = urlsplit(url)
        environment["PGPASSWORD"] = parts.password or ""
        options = [
            "-h",
            parts.hostname or "",
            "-p",
            str(parts.port or 5432),
            "-U",
            parts.username or "",
            "-d",
            parts.path.lstrip("/"),
        ]
    done = subprocess.run(
        [binary(program), *options, *arguments],
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode != 0:
        raise CopyError(
            f"{program} failed, nothing was changed:"
            f" {done.stderr.strip().splitlines()[-1] if done.stderr.strip() else 'no word'}"
        )

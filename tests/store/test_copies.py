"""Data is never deleted: files that were lost or spoilt are made again, what cannot be is refused
in words; copies come back whole.
"""

from __future__ import annotations

import shutil
import subprocess
import tempfile
import zipfile
from pathlib import Path

import pytest

from wedgecraft.core.shop.picks import starting_job
from wedgecraft.service import copies, state
from wedgecraft.store import jobs, people
from wedgecraft.store.cluster import Cluster, ClusterError
from wedgecraft.store.database import Database
from wedgecraft.store.files import write_whole


@pytest.fixture
def folder(monkeypatch):
    made = Path(tempfile.mkdtemp(prefix="wedgecraft-test-"))
    made.chmod(0o755)
    monkeypatch.setenv("WEDGECRAFT_STATE", str(made))
    monkeypatch.delenv("WEDGECRAFT_DATABASE", raising=False)
    yield made
    Cluster(made / "postgres").stop()
    shutil.rmtree(made, ignore_errors=True)


def _fill(cluster: Cluster, name: str = "Kept") -> None:
    database = Database(cluster.url)
    state.prepare_database(database, demo=False)
    with database.session() as session:
        jobs.add_job(session, starting_job(name, 20), None)
        if not people.anyone(session):
            people.add_person(session, "own", "Own", "admin", "a password of its own")
    database.close()


def _names(url: str) -> list[str]:
    database = Database(url)
    with database.session() as session:
        found = [line.job.name for line in jobs.lines(session, 50)[0]]
    database.close()
    return sorted(found)


def test_a_lost_or_spoilt_password_is_made_anew_and_no_data_is_ever_removed(folder):
    cluster = Cluster(folder / "postgres")
    cluster.start()
    _fill(cluster)
    for spoilt in (None, "", "{", "[]", '{"port": "x"}'):
        if spoilt != "":  # once with the server still running, as a killed supervisor leaves it
            cluster.stop()
        secret = folder / "postgres" / "access.json"
        if spoilt is None:
            secret.unlink()
        else:
            secret.write_text(spoilt)
        assert cluster.start()
        assert _names(cluster.url) == ["Kept"]
    cluster.stop()
    (folder / "postgres/data/PG_VERSION").rename(folder / "away")
    with pytest.raises(ClusterError, match="Nothing was removed"):
        cluster.start()
    (folder / "away").rename(folder / "postgres/data/PG_VERSION")
    shutil.copytree(
        "/etc/skel", folder / "postgres/being-made"
    )  # what a start that was cut short leaves
    assert cluster.start()
    assert _names(cluster.url) == ["Kept"]


def test_a_spoilt_session_key_is_made_anew_and_files_are_written_whole(folder):
    key = state.session_key(folder)
    assert state.session_key(folder) == key
    for spoilt in ("", "short", "z" * 64):
        (folder / "session-key").write_text(spoilt)
        assert len(state.session_key(folder)) == 64
    file = folder / "whole"
    write_whole(file, "old")
    code = (
        "from pathlib import Path\nimport os, wedgecraft.store.files as f\n"
        f"os.replace = lambda *a: os._exit(9)\nf.write_whole(Path({str(file)!r}), 'new')"
    )
    assert (
        subprocess.run([shutil.which("python") or "python", "-c", code], check=False).returncode
        == 9
    )
    assert file.read_text() == "old"


def test_a_copy_is_checked_put_back_in_a_fresh_folder_and_over_another_shop(folder, monkeypatch):
    cluster = Cluster(folder / "postgres")
    cluster.start()
    _fill(cluster)
    copy = folder / "shop.backup"
    made = copies.backup(copy)  # while it runs
    assert (made.rows["job"], made.rows["person"]) == (1, 1)
    assert copy.stat().st_mode & 0o077 == 0
    cluster.stop()
    assert copies.backup(copy).rows == made.rows  # while it stands still, over the copy before
    assert not cluster.running

    fresh = folder / "fresh"
    fresh.mkdir(mode=0o755)
    monkeypatch.setenv("WEDGECRAFT_STATE", str(fresh))
    other = Cluster(fresh / "postgres")
    try:
        found, _ = copies.restore(copy)
        assert found == copies.checked(copy)
        assert not other.running
        other.start()
        assert _names(other.url) == ["Kept"]
        _fill(other, "Made since")
        serving = Database(other.url)  # as the web process holds it
        serving.answers()
        _, kept = copies.restore(copy)
        assert _names(other.url) == ["Kept"]
        serving.answers()
        serving.close()
        assert _names(other.url.rsplit("/", 1)[0] + f"/{kept}") == ["Kept", "Made since"]
        with zipfile.ZipFile(copy) as whole:
            manifest, dump = whole.read("manifest.json"), whole.read("shop.dump")
        for name, written in (
            ("cut", copy.read_bytes()[:-2000]),
            ("other", b"PK"),
            ("flipped", None),
        ):
            bad = folder / name
            if written is None:
                with zipfile.ZipFile(bad, "w") as out:
                    out.writestr("manifest.json", manifest)
                    out.writestr("shop.dump", dump[:900] + bytes([dump[900] ^ 1]) + dump[901:])
            else:
                bad.write_bytes(written)
            with pytest.raises(copies.CopyError):
                copies.restore(bad)
        assert _names(other.url) == ["Kept"]
    finally:
        other.stop()

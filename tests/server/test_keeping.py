"""The cluster, the backups and the process that keeps all running: after a power cut, with a strange pid file, with whatever part of it killed."""

from __future__ import annotations

import itertools
import json
import os
import signal
import subprocess
import sys
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest
from django.db import connection

from mellow_span.jobs import models
from tests.conftest import make_firm
from tests.depth import many
from tests.server.conftest import ROOT, Spare, children, free_port, get, until

EVERYTHING = """
SELECT md5(string_agg(t || ':' || n || ':' || h, ' ' ORDER BY t)) FROM (
  SELECT table_name AS t, (xpath('//n/text()', x))[1]::text AS n, (xpath('//h/text()', x))[1]::text AS h FROM (
    SELECT table_name, query_to_xml(format(
      'SELECT count(*) AS n, coalesce(md5(string_agg(r::text, chr(10) ORDER BY r::text)), '''') AS h FROM public.%I r', table_name
    ), false, true, '') AS x
    FROM information_schema.tables WHERE table_schema = 'public' AND table_type = 'BASE TABLE' AND table_name <> 'jobs_epoch'
  ) AS told
) AS all_of_them
"""


def here(statement: str) -> str:
    with connection.cursor() as cursor:
        cursor.execute(statement)
        return str(cursor.fetchone()[0])


@pytest.mark.django_db(transaction=True)
def test_a_backup_restored_into_a_fresh_cluster_holds_the_same_to_the_last_row(spare: Spare, tmp_path: Path) -> None:
    firm = make_firm()
    env = {**os.environ, "MELLOW_SPAN_DB_NAME": connection.settings_dict["NAME"]}
    made = subprocess.run(
        [sys.executable, "scripts/backup.py", "make", str(tmp_path)], cwd=ROOT, env=env, capture_output=True, text=True, check=False
    )
    assert made.returncode == 0, made.stderr
    path = Path(made.stdout.strip())
    assert path.stat().st_mode & 0o077 == 0, "a backup is for its owner alone"
    before = here(EVERYTHING)
    restored = spare.script("backup", "restore", str(path))
    assert restored.returncode == 0, restored.stderr
    assert spare.sql(EVERYTHING) == before
    assert spare.sql(f"SELECT name FROM jobs_job WHERE id = '{firm.job.pk}'") == "Orchard Row"
    # It is another history from here on, and says to when it was put back.
    first = spare.sql("SELECT mark FROM jobs_epoch")
    assert first != here("SELECT coalesce(max(mark::text), 'none') FROM jobs_epoch")
    assert spare.sql("SELECT put_back = (SELECT max(put_back) FROM jobs_epoch) AND put_back <= now() FROM jobs_epoch") == "True"
    made_at = datetime.strptime(path.stem, "mellow-span-%Y-%m-%d-%H%M%S").timestamp()
    assert float(spare.sql("SELECT extract(epoch FROM put_back) FROM jobs_epoch")) == made_at
    # A second one goes in the place of the first, which is kept aside.
    models.Job.objects.filter(pk=firm.job.pk).update(name="Later")
    again = spare.script("backup", "restore", str(path))
    assert again.returncode == 0, again.stderr
    aside = again.stdout.strip().rpartition(" ")[2]
    assert spare.sql("SELECT count(*) FROM jobs_job", aside) == "1"
    assert spare.sql("SELECT count(*) FROM jobs_epoch") == "1"
    assert spare.sql("SELECT mark FROM jobs_epoch") != first


def test_a_broken_backup_is_refused_and_changes_nothing(spare: Spare, tmp_path: Path) -> None:
    made = spare.script("backup", "make", str(tmp_path))
    assert made.returncode == 0, made.stderr
    whole = Path(made.stdout.strip())
    before = spare.sql(EVERYTHING)
    data = whole.read_bytes()
    broken = tmp_path / "broken.dump"
    for torn in (data[: len(data) * 2 // 3], b"not a backup", b""):
        broken.write_bytes(torn)
        refused = spare.script("backup", "restore", str(broken))
        assert refused.returncode != 0
        assert "no whole backup" in refused.stderr
        assert spare.sql(EVERYTHING) == before
    # One name in its list of contents is another: it reads whole to its end, and is not what was written.
    tampered = data.replace(b"jobs_member", b"jobs_nember", 1)
    assert tampered != data
    whole.write_bytes(tampered)
    refused = spare.script("backup", "restore", str(whole))
    assert refused.returncode != 0
    assert "it is not what was written" in refused.stderr
    assert spare.sql(EVERYTHING) == before
    whole.write_bytes(data)
    assert spare.script("backup", "check", str(whole)).stdout == "whole\n"
    # Copied without its digest it is still a backup, and it is said that nobody can tell more.
    alone = tmp_path / "alone.dump"
    alone.write_bytes(data)
    assert "cannot be told" in spare.script("backup", "check", str(alone)).stderr


def test_old_backups_are_thinned_out_and_only_backups(tmp_path: Path) -> None:
    sys.path.insert(0, str(ROOT / "scripts"))
    import backup

    for day in range(1, 21):
        (tmp_path / f"mellow-span-2026-01-{day:02}-020000.dump").touch()
        (tmp_path / f"mellow-span-2026-01-{day:02}-020000.dump.sha256").touch()
    (tmp_path / "notes.txt").touch()
    backup.thin_out(tmp_path)
    left = sorted(p.name for p in tmp_path.iterdir())
    assert len(left) == 29
    assert left[0] == "mellow-span-2026-01-07-020000.dump"
    assert "notes.txt" in left


@pytest.mark.parametrize("whose", ["gone", "another program", "another server"])
def test_the_cluster_starts_with_the_pid_file_of_a_power_cut_whoever_has_its_number_now(whose: str, spare: Spare) -> None:
    path, before = spare.folder / "pg" / "postmaster.pid", spare.sql(EVERYTHING)
    lines = path.read_text().split("\n")
    killed = spare.postmaster
    os.kill(killed, signal.SIGKILL)
    until(lambda: not Path(f"/proc/{killed}").exists())
    sys.path.insert(0, str(ROOT / "scripts"))
    import cluster

    number = {"gone": "4194303", "another program": str(os.getpid()), "another server": str(cluster.serving(cluster.data_folder()))}[whose]
    assert number != "None"
    path.write_text("\n".join([number, *lines[1:]]))
    started = spare.script("cluster", "start")
    assert started.returncode == 0, started.stderr
    assert "recovers by itself" in started.stdout
    assert spare.sql(EVERYTHING) == before
    assert spare.script("cluster", "start").stdout.startswith("running")


def keep(spare: Spare, port: int) -> subprocess.Popen[str]:
    line = [sys.executable, "scripts/supervise.py", "run", "--port", str(port), "--searchers", "1"]
    return subprocess.Popen(line, cwd=ROOT, env=spare.env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)


def test_one_that_hangs_is_stopped_all_the_same(spare: Spare) -> None:
    port = free_port()
    process = keep(spare, port)
    try:
        until(lambda: get(port)[0] == 200 and (spare.folder / "serving.json").exists())
        below = children(process.pid)
        process.send_signal(signal.SIGSTOP)
        stopped = spare.script("supervise", "stop", "--grace", "1")
        assert stopped.stdout.strip() == "stopped"
        assert "it was killed" in stopped.stderr
        until(lambda: not any(Path(f"/proc/{pid}").exists() for pid in below))
    finally:
        process.kill()
        process.communicate(timeout=10)
    assert get(port)[0] == 0
    assert not (spare.folder / "serving.json").exists()


def command(pid: int) -> str:
    return Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ").decode()


def test_whatever_is_killed_is_started_again_and_said(spare: Spare) -> None:
    port = free_port()
    process = keep(spare, port)
    try:
        assert process.stdout is not None
        # It has seen that all of it runs, and keeps it running from now on.
        assert any(line.startswith("  Open") for line in process.stdout)

        def named(what: str) -> list[int]:
            return [c for c in children(process.pid) if what in command(c)]

        for what in ("mellow_span.serving.server", "mellow_span.serving.searcher"):
            there = named(what)
            for killed in there:
                os.kill(killed, signal.SIGKILL)
            until(lambda there=there, what=what: len(named(what)) == len(there) and not set(named(what)) & set(there))
            until(lambda: get(port)[0] == 200)
        killed = spare.postmaster
        os.kill(killed, signal.SIGKILL)
        until(lambda: get(port)[0] == 200 and spare.postmaster != killed)
        # The port is taken now: another start says so, loudly, and by whom.
        refused = spare.script("supervise", "need-port", "--port", str(port))
        assert refused.returncode == 1
        assert f"PORT {port} IS TAKEN by process" in refused.stderr
        assert "unsent" in refused.stderr or "not sent yet" in refused.stderr
        assert "this very folder" in refused.stderr
        stopped = spare.script("supervise", "stop")
        assert (stopped.stdout.strip(), stopped.stderr) == ("stopped", "")
        said, _ = process.communicate(timeout=30)
    finally:
        process.kill()
    for line in ("a web server stopped (status -9); started again", "the search process stopped", "the database stopped; started again"):
        assert line in said
    assert get(port)[0] == 0
    assert not (spare.folder / "serving.json").exists()


def test_nothing_it_started_outlives_it(spare: Spare) -> None:
    port = free_port()
    process = keep(spare, port)
    until(lambda: get(port)[0] == 200)
    below = children(process.pid)
    assert len(below) >= 4
    process.kill()
    process.communicate(timeout=10)
    until(lambda: not any(Path(f"/proc/{pid}").exists() and "mellow_span" in command(pid) for pid in below))
    assert get(port)[0] == 0


def test_the_keeper_of_it_all_is_started_again_however_often_it_is_killed(spare: Spare) -> None:
    port = free_port()
    line = ["scripts/again.sh", sys.executable, "scripts/supervise.py", "run", "--port", str(port), "--searchers", "2"]
    process = subprocess.Popen(line, cwd=ROOT, env=spare.env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
    try:
        until(lambda: get(port)[0] == 200)
        for times in range(many(5, 2)):
            (keeper,) = children(process.pid)
            below = children(keeper)
            os.kill(keeper, signal.SIGKILL)
            if times % 2:
                # With the database, which nobody looks after in this moment.
                os.kill(spare.postmaster, signal.SIGKILL)
            until(lambda below=below, keeper=keeper: get(port)[0] == 200 and children(process.pid) not in ([keeper], []))
            until(lambda below=below: not any(Path(f"/proc/{pid}").exists() and "mellow_span" in command(pid) for pid in below))
        assert get(port)[0] == 200
        # One that hangs and has to be killed to be stopped is not started again.
        until(lambda: [json.loads((spare.folder / "serving.json").read_text())["pid"]] == children(process.pid))
        (keeper,) = children(process.pid)
        os.kill(keeper, signal.SIGSTOP)
        assert spare.script("supervise", "stop", "--grace", "1").stdout.strip() == "stopped"
        said, _ = process.communicate(timeout=30)
    finally:
        process.terminate()
    assert "the keeper of it all was killed; started again" in said
    assert "Killed" not in said
    assert get(port)[0] == 0


@pytest.fixture
def supervise(monkeypatch: pytest.MonkeyPatch) -> Any:
    monkeypatch.syspath_prepend(str(ROOT / "scripts"))
    import supervise

    return supervise


def test_what_dies_at_once_is_tried_again_later_each_time_and_nothing_is_given_up(
    supervise: Any, monkeypatch: pytest.MonkeyPatch, capsys: Any
) -> None:
    now, started = [1000.0], []
    monkeypatch.setattr(supervise.time, "monotonic", lambda: now[0])

    class Dead:
        returncode = 3

        def poll(self) -> int:
            return 3

    monkeypatch.setattr(supervise.subprocess, "Popen", lambda *_, **__: started.append(now[0]) or Dead())
    child = supervise.Child("the web server", ["x"])
    for _ in range(2000):
        child.keep()
        now[0] += 0.1
    gaps = [round(b - a, 1) for a, b in itertools.pairwise(started)]
    assert gaps[0] <= 0.2, "at once the first time"
    assert gaps == sorted(gaps), gaps
    assert 29 <= gaps[-1] <= 31
    assert sum(gaps) > 150, "minutes, and it goes on"
    assert "started again in 30 s" in capsys.readouterr().out
    # One that ran well for a while is started at once again.
    child.began, child.due = now[0] - 1000, None
    before = len(started)
    child.keep()
    assert len(started) == before + 1


def test_a_database_that_does_not_start_stops_nothing_else(
    supervise: Any, monkeypatch: pytest.MonkeyPatch, tmp_path: Path, capsys: Any
) -> None:
    now, tried = [1000.0], []
    monkeypatch.setattr(supervise.time, "monotonic", lambda: now[0])
    monkeypatch.setattr(supervise.cluster, "serving", lambda _: None)

    def fail() -> bool:
        tried.append(now[0])
        raise SystemExit("PostgreSQL: the disk is full")

    monkeypatch.setattr(supervise.cluster, "start", fail)
    database = supervise.Database(tmp_path)
    for _ in range(1000):
        database.keep()
        now[0] += 0.1
    assert 5 <= len(tried) <= 15
    assert "the disk is full" in capsys.readouterr().out
    monkeypatch.setattr(supervise.cluster, "start", lambda: tried.append(now[0]) or True)
    now[0] += 60
    database.keep()
    assert "the database stopped; started again" in capsys.readouterr().out


def test_a_backup_is_made_each_night_once_and_not_at_once(monkeypatch: pytest.MonkeyPatch, tmp_path: Path, capsys: Any) -> None:
    sys.path.insert(0, str(ROOT / "scripts"))
    import backup
    import supervise

    now = [datetime(2026, 3, 1, 12, 0)]

    class Clock(datetime):
        @classmethod
        def now(cls, tz: Any = None) -> Any:
            return now[0]

    made: list[Path] = []
    monkeypatch.setattr(supervise, "datetime", Clock)
    monkeypatch.setattr(backup, "folder", lambda: tmp_path)
    monkeypatch.setattr(backup, "make", lambda into: made.append(into) or into)
    night = supervise.Night("02:30")
    for day, hour in ((1, 23), (2, 2), (2, 3), (2, 4), (3, 1), (3, 3)):
        now[0] = datetime(2026, 3, day, hour, 0)
        night.keep()
    assert len(made) == 2
    monkeypatch.setattr(backup, "make", lambda into: sys.exit("the disk is full"))
    now[0] = datetime(2026, 3, 4, 3, 0)
    night.keep()
    assert "BACKUP OF THE NIGHT FAILED: the disk is full" in capsys.readouterr().out

"""Backups of all that is stored: made with pg_dump in its own format, read back before they count, restored into the cluster of this checkout.

Uses only the standard library and the tools of the database.
"""

from __future__ import annotations

import hashlib
import json
import os
import subprocess
import sys
import time
from datetime import datetime
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent))
import cluster

# The database of the app; another where it serves from another.
NAME = os.environ.get("MELLOW_SPAN_DB_NAME", "mellow_span")
SUFFIX, DIGEST = ".dump", ".sha256"
KEPT = 14


def folder() -> Path:
    """Return where backups are kept."""
    return Path(os.environ.get("MELLOW_SPAN_BACKUPS", cluster.LOCAL / "backups"))


def tool(name: str, *given: str, database: str = NAME, user: str = "mellow_span") -> subprocess.CompletedProcess[str]:
    """Run a tool of the database against the cluster of this checkout. Raises SystemExit with what it said where it fails."""
    about = json.loads(cluster.CONNECTION.read_text("utf-8"))
    password = about["password"] if user == "mellow_span" else (cluster.LOCAL / "cluster_admin").read_text("utf-8")
    env = {**os.environ, "PGPASSWORD": password}
    line = [str(cluster.binaries() / name), "-h", "127.0.0.1", "-p", str(about["port"]), "-U", user, "-d", database, *given]
    done = subprocess.run(line, text=True, capture_output=True, env=env, check=False)
    if done.returncode:
        sys.exit(f"{name} failed: {done.stderr.strip()[-600:]}")
    return done


def make(into: Path) -> Path:
    """Write a backup and return its file; it gets its name only once it was read back whole. Raises SystemExit."""
    into.mkdir(parents=True, exist_ok=True, mode=0o700)
    path = into / f"mellow-span-{datetime.now():%Y-%m-%d-%H%M%S}{SUFFIX}"
    part = path.with_suffix(".part")
    part.touch(mode=0o600)
    tool("pg_dump", "--format=custom", "--no-owner", "--no-acl", "--file", str(part))
    check(part)
    with part.open("rb") as written:
        os.fsync(written.fileno())
    beside(path).touch(mode=0o600)
    # As sha256sum writes and checks it.
    beside(path).write_text(f"{digest(part)}  {path.name}\n", encoding="utf-8")
    part.rename(path)
    return path


def beside(path: Path) -> Path:
    """Return where the digest of a backup lies."""
    return path.with_name(path.name + DIGEST)


def digest(path: Path) -> str:
    """Return the digest of a whole file."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def untouched(path: Path) -> None:
    """Raise SystemExit for a backup that is not what was written: before anything in it, its list of contents too, is believed."""
    if not beside(path).exists():
        print(f"  there is no {beside(path).name} beside it: whether it is as it was written cannot be told", file=sys.stderr)
    elif beside(path).read_text("utf-8").split()[:1] != [digest(path)]:
        sys.exit(f"{path.name} is no whole backup: it is not what was written, as {beside(path).name} tells")


def check(path: Path) -> None:
    """Read a backup whole, as restoring it would, without storing anything. Raises SystemExit for one that is broken or holds no jobs table."""
    done = subprocess.run(
        [str(cluster.binaries() / "pg_restore"), "--file", "-", str(path)],
        capture_output=True,
        check=False,
        env={**os.environ, "LC_ALL": "C.UTF-8"},
    )
    if done.returncode or b"CREATE TABLE public.jobs_job " not in done.stdout or b"dump complete" not in done.stdout:
        sys.exit(f"{path.name} is no whole backup: {done.stderr.decode(errors='replace').strip()[-300:] or 'it ends too early'}")


def thin_out(where: Path, keep: int = KEPT) -> None:
    """Remove the oldest backups, but for so many."""
    for old in sorted(where.glob(f"mellow-span-*{SUFFIX}"))[:-keep]:
        old.unlink()
        beside(old).unlink(missing_ok=True)


def restore(path: Path) -> str:
    """Put a backup in the place of what is stored; return the database in which that is kept aside, empty where there was nothing.

    The backup is read into a database of its own first, so that one that is broken changes nothing. Raises SystemExit.
    """
    untouched(path)
    check(path)
    fresh, aside = f"restored_{os.getpid()}", f"before_{datetime.now():%Y%m%d_%H%M%S}_{os.getpid()}"
    sql("postgres", f"CREATE DATABASE {fresh} OWNER mellow_span")
    try:
        tool("pg_restore", "--no-owner", "--no-acl", "--exit-on-error", "--single-transaction", str(path), database=fresh)
    except SystemExit:
        sql("postgres", f"DROP DATABASE {fresh}")
        raise
    sql(fresh, another_epoch(moment(path)))
    swap(fresh, aside)
    return aside


def moment(path: Path) -> datetime:
    """Return when a backup was made: as its name says, else when its file was written."""
    try:
        return datetime.strptime(path.stem, "mellow-span-%Y-%m-%d-%H%M%S").astimezone()
    except ValueError:
        return datetime.fromtimestamp(path.stat().st_mtime).astimezone()


def another_epoch(made: datetime) -> str:
    """Return the statement that begins another history in a database that was put back: pages that are open notice it by that.

    One of before there were any gets its mark when it is brought up to date.
    """
    return (
        "DO $$ BEGIN IF to_regclass('public.jobs_epoch') IS NOT NULL THEN DELETE FROM public.jobs_epoch; "
        f"INSERT INTO public.jobs_epoch (mark, put_back) VALUES (gen_random_uuid(), '{made.isoformat()}'); END IF; END $$"
    )


def swap(fresh: str, aside: str) -> None:
    """Put a database in the place of the app's, which is kept aside under another name: both or neither. Raises SystemExit.

    Nobody may be in either at that moment. Whoever is, is sent away; as the cluster itself looks into new databases, it is tried some times.
    """
    kick = f"SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname IN ('{NAME}', '{fresh}')"
    renames = f"BEGIN; ALTER DATABASE {NAME} RENAME TO {aside}; ALTER DATABASE {fresh} RENAME TO {NAME}; COMMIT"
    for last in (False,) * 20 + (True,):
        try:
            sql("postgres", kick, renames)
            return
        except SystemExit:
            if last:
                sql("postgres", f"DROP DATABASE {fresh}")
                raise
            time.sleep(0.25)


def sql(database: str, *statements: str) -> str:
    """Run statements as the owner of the cluster and return what they said."""
    asked = [part for one in statements for part in ("-c", one)]
    return tool("psql", "-v", "ON_ERROR_STOP=1", "-Atq", *asked, database=database, user="mellow_admin").stdout


def main() -> None:
    """Do what the command line asks."""
    action, *given = sys.argv[1:] or ["?"]
    if action == "make" and len(given) <= 1:
        print(make(Path(given[0]) if given else folder()))
    elif action == "restore" and len(given) == 1 and Path(given[0]).is_file():
        print(f"restored; what was stored before is kept as the database {restore(Path(given[0]))}")
    elif action == "check" and len(given) == 1:
        untouched(Path(given[0]))
        check(Path(given[0]))
        print("whole")
    else:
        sys.exit("usage: backup.py make [FOLDER] | restore FILE | check FILE")


if __name__ == "__main__":
    main()

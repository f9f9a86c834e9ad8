"""The private PostgreSQL cluster of this checkout: make, start, stop. Loopback only, password by scram, works as root or a plain user.

Writes connection.json (mode 600) for the settings. Uses only the standard library, since it runs before anything else does.
"""

from __future__ import annotations

import hashlib
import json
import os
import pwd
import secrets
import shutil
import socket
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
LOCAL = Path(os.environ.get("MELLOW_SPAN_LOCAL", ROOT / ".local"))
CONNECTION = LOCAL / "connection.json"
OWNER = "postgres" if os.geteuid() == 0 else None


def fail(what: str, todo: str) -> None:
    """Stop with what failed and what to do about it."""
    sys.exit(f"PostgreSQL: {what}\n  {todo}")


def binaries() -> Path:
    """Return the folder of initdb, pg_ctl and postgres."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/pg_ctl"), key=lambda p: int(p.parts[-3]))
    if found:
        return found[-1].parent
    if path := shutil.which("pg_ctl"):
        return Path(path).resolve().parent
    fail("no server is installed", "install Debian's package postgresql, or start with ./run which does")
    raise AssertionError


def as_owner(*command: str, **more: object) -> subprocess.CompletedProcess[str]:
    """Run a command as the user that owns the cluster: the server refuses to run as root."""
    line = ["runuser", "-u", OWNER, "--", *command] if OWNER else list(command)
    return subprocess.run(line, cwd="/", text=True, capture_output=True, check=False, **more)  # type: ignore[call-overload,no-any-return]


def data_folder() -> Path:
    """Return the data directory: in .local, or beside /var/lib where the server's user cannot reach this checkout."""
    inside = LOCAL / "pg"
    if inside.is_symlink():
        return inside.resolve()
    if OWNER is None or as_owner("test", "-x", str(LOCAL)).returncode == 0:
        return inside
    mark = hashlib.sha256(str(ROOT).encode()).hexdigest()[:10]
    outside = Path("/var/lib") / f"mellow-span-{mark}"
    if not inside.exists():
        inside.symlink_to(outside)
        print(f"  this folder is closed to the database's user, so its data lies in {outside}")
    return outside


def free_port() -> int:
    """Return a port of the loopback interface that nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def taken(port: int) -> bool:
    """Say whether somebody listens on a loopback port."""
    with socket.socket() as probe:
        probe.settimeout(0.3)
        return probe.connect_ex(("127.0.0.1", port)) == 0


def write_private(path: Path, text: str, owner: str | None = None) -> None:
    """Write a file that only one user reads."""
    path.write_text(text, encoding="utf-8")
    path.chmod(0o600)
    if owner:
        shutil.chown(path, owner)


def make(data: Path) -> None:
    """Make the cluster with two roles: one that owns it, and the one of the app that may make databases for tests."""
    if OWNER and OWNER not in [u.pw_name for u in pwd.getpwall()]:
        fail("the system user postgres is missing", "install Debian's package postgresql")
    data.mkdir(parents=True, exist_ok=True)
    if OWNER:
        shutil.chown(data, OWNER, OWNER)
    data.chmod(0o700)
    admin, app = secrets.token_urlsafe(24), secrets.token_urlsafe(24)
    password_file = data.parent / ".pgpw" if not OWNER else Path("/var/tmp") / f"ms-{secrets.token_hex(8)}"
    write_private(password_file, admin, OWNER)
    try:
        done = as_owner(
            str(binaries() / "initdb"), "-D", str(data), "-U", "mellow_admin", "--encoding=UTF8", "--locale=C.UTF-8",
            "--auth=scram-sha-256", f"--pwfile={password_file}",
        )  # fmt: skip
    finally:
        password_file.unlink()
    if done.returncode:
        fail("the cluster could not be made", done.stderr.strip()[-600:])
    about = {"host": "127.0.0.1", "port": free_port(), "name": "mellow_span", "user": "mellow_span", "password": app}
    write_private(LOCAL / "cluster_admin", admin)
    write_private(CONNECTION, json.dumps(about))


def serving(data: Path) -> int | None:
    """Return the process that serves this cluster, None where none does: a pid file left by a power cut may name anybody.

    It is our server if it is a postgres that works in this data folder and began when the file says.
    """
    try:
        lines = (data / "postmaster.pid").read_text().split("\n")
        pid, began = int(lines[0]), int(lines[2])
        about = Path(f"/proc/{pid}")
        ours = (about / "comm").read_text().startswith("postgres") and (about / "cwd").resolve() == data.resolve()
        return pid if ours and abs(process_began(about) - began) < 120 else None
    except (OSError, ValueError, IndexError):
        return None


def process_began(about: Path) -> float:
    """Return when a process began [s since 1970]."""
    ticks = int((about / "stat").read_text().rsplit(")", 1)[1].split()[19])
    booted = next(int(line.split()[1]) for line in Path("/proc/stat").read_text().splitlines() if line.startswith("btime"))
    return booted + ticks / os.sysconf("SC_CLK_TCK")


def drop_stale_pid(data: Path) -> None:
    """Remove a pid file whose process does not serve this cluster: it would stop the start."""
    path = data / "postmaster.pid"
    if path.exists() and serving(data) is None:
        path.unlink()
        print("  the database was not stopped properly last time; it recovers by itself")


def answers(port: int) -> bool:
    """Say whether a PostgreSQL server answers on a port: it replies to the question for encryption with one letter."""
    try:
        with socket.create_connection(("127.0.0.1", port), timeout=2) as ask:
            ask.sendall(b"\x00\x00\x00\x08\x04\xd2\x16\x2f")
            return ask.recv(1) in (b"S", b"N")
    except OSError:
        return False


def running(data: Path) -> bool:
    """Say whether the server of this cluster runs and answers; one that is about to is waited for."""
    port = json.loads(CONNECTION.read_text("utf-8"))["port"] if CONNECTION.exists() else 0
    for _ in range(60):
        if serving(data) is None:
            return False
        if answers(port):
            return True
        time.sleep(0.5)
    fail("the server runs and does not answer", f"see the end of {data / 'server.log'}, and stop process {serving(data)}")
    raise AssertionError


def start() -> bool:
    """Start the cluster, making it first if needed; return whether this call started it."""
    LOCAL.mkdir(parents=True, exist_ok=True)
    data = data_folder()
    fresh = not CONNECTION.exists() or not (data / "PG_VERSION").exists()
    if fresh:
        if data.parent != LOCAL and data.exists() and not CONNECTION.exists():
            # Left by an earlier checkout at this very place: its passwords went with it, so nobody can open it any more.
            if running(data):
                as_owner(str(binaries() / "pg_ctl"), "-D", str(data), "-m", "fast", "-w", "stop")
            shutil.rmtree(data)
        if data.exists() and any(data.iterdir()):
            fail(f"{data} holds a half-made cluster", f"remove {data} and start again")
        make(data)
    if running(data):
        return False
    drop_stale_pid(data)
    about = json.loads(CONNECTION.read_text("utf-8"))
    if taken(about["port"]):
        about["port"] = free_port()
        write_private(CONNECTION, json.dumps(about))
    options = f"-c listen_addresses=127.0.0.1 -c port={about['port']} -c unix_socket_directories= -c max_connections=60"
    log = data / "server.log"
    done = as_owner(str(binaries() / "pg_ctl"), "-D", str(data), "-l", str(log), "-o", options, "-w", "-t", "60", "start")
    if done.returncode:
        tail = as_owner("tail", "-n", "5", str(log)).stdout
        fail("the server did not start", f"its log, {log}, ends:\n{tail}")
    if fresh:
        make_role(about)
    return True


def make_role(about: dict[str, object]) -> None:
    """Make the app's role and database."""
    admin = (LOCAL / "cluster_admin").read_text("utf-8")
    env = {**os.environ, "PGPASSWORD": admin}
    psql = [
        str(binaries() / "psql"),
        "-h",
        "127.0.0.1",
        "-p",
        str(about["port"]),
        "-U",
        "mellow_admin",
        "-d",
        "postgres",
        "-v",
        "ON_ERROR_STOP=1",
    ]
    sql = f"CREATE ROLE mellow_span LOGIN CREATEDB PASSWORD '{about['password']}';\nCREATE DATABASE mellow_span OWNER mellow_span;\n"
    done = subprocess.run(psql, input=sql, text=True, capture_output=True, env=env, check=False)
    if done.returncode:
        fail("the app's role could not be made", done.stderr.strip())


def stop() -> None:
    """Stop the cluster if it runs."""
    data = data_folder()
    if (data / "PG_VERSION").exists() and serving(data) is not None:
        as_owner(str(binaries() / "pg_ctl"), "-D", str(data), "-m", "fast", "-w", "stop")


if __name__ == "__main__":
    action = sys.argv[1] if len(sys.argv) > 1 else ""
    if action == "start":
        began = time.monotonic()
        print("started" if start() else "running", f"{time.monotonic() - began:.1f}")
    elif action == "stop":
        stop()
    else:
        sys.exit("usage: cluster.py start | stop")

"""What the environment says, as one typed value that is read once. It refuses to start the app where anything of it is wrong."""

from __future__ import annotations

import os
from datetime import time
from functools import cache
from ipaddress import IPv4Address, IPv6Address
from pathlib import Path
from typing import Annotated, Any

from pydantic import AnyHttpUrl, BeforeValidator, Field, ValidationError, field_validator
from pydantic_settings import BaseSettings, NoDecode, SettingsConfigDict

ROOT = Path(__file__).resolve().parents[2]
PREFIX = "MELLOW_SPAN_"


class WrongSettings(Exception):
    """The app does not start: each thing that is wrong, with the variable that says it."""


def _listed(text: Any) -> Any:
    return tuple(filter(None, (part.strip() for part in text.split(",")))) if isinstance(text, str) else text


Listed = Annotated[tuple[str, ...], NoDecode, BeforeValidator(_listed)]
Address = IPv4Address | IPv6Address


class Environment(BaseSettings):
    """The variables whose names begin with MELLOW_SPAN_; docs/operations.md says what each is for."""

    model_config = SettingsConfigDict(env_prefix=PREFIX, env_ignore_empty=True, frozen=True)

    # The folder of what belongs to this machine: database, key, backups.
    local: Path = ROOT / ".local"
    # The key that sessions and links are signed with. There is none to fall back on: whoever knew it could sign in as anybody.
    secret_key: str = Field(min_length=32)
    debug: bool = False
    hosts: Listed = ()
    origins: Listed = ()
    https: bool = False
    # The proxy in front that is believed, and the address that is listened at.
    proxy: Address | None = None
    bind: Address = IPv4Address("127.0.0.1")
    log: bool = False
    # No statement outlives so many milliseconds; 0 for as long as it takes.
    statement_ms: int = Field(default=10_000, ge=0, le=3_600_000)
    db_name: str = Field(default="", pattern=r"^[a-z0-9_]{0,63}$")
    # Outside services; empty where none is set up.
    merchant: AnyHttpUrl | None = None
    instrument: str = Field(default="", pattern=r"^([A-Za-z0-9.-]+:[0-9]{1,5})?$")
    nightly: time | None = None
    backups: Path | None = None
    # The process that started this one, and which it does not outlive.
    parent: int | None = Field(default=None, ge=1)

    @field_validator("hosts")
    @classmethod
    def _no_wildcard(cls, hosts: tuple[str, ...]) -> tuple[str, ...]:
        if any("*" in host or "/" in host for host in hosts):
            raise ValueError("names of this server, without * and without http://")
        return hosts


def _key_of(local: Path) -> dict[str, str]:
    """The signing key of this machine, which `./run` made once and keeps out of the repository."""
    path = local / "secret_key"
    return {"secret_key": path.read_text("utf-8").strip()} if path.exists() else {}


def read() -> Environment:
    """Read the environment. Raises WrongSettings, naming all that is wrong with the variable that says it."""
    known = {PREFIX + name.upper() for name in Environment.model_fields}
    wrong = [f"{name}: there is no such setting" for name in sorted(os.environ) if name.startswith(PREFIX) and name not in known]
    own = {} if os.environ.get(PREFIX + "SECRET_KEY") else _key_of(Path(os.environ.get(PREFIX + "LOCAL") or ROOT / ".local"))
    found = None
    try:
        found = Environment(**own)  # type: ignore[arg-type]
    except ValidationError as error:
        wrong += [_told(one) for one in error.errors()]
    if wrong or found is None:
        raise WrongSettings("Mellow Span does not start, its settings are wrong.\n" + "\n".join(f"  {line}" for line in wrong))
    return found


def _told(error: Any) -> str:
    name = PREFIX + str(error["loc"][0]).upper()
    if name == PREFIX + "SECRET_KEY":
        # What was given is not repeated: it may be half of a key.
        what = "there is no key" if error["type"] == "missing" else "the key is too short"
        return f"{name}: {what}; ./run makes one, or set 32 characters or more that nobody else knows"
    return f"{name}: {error['input']!r} given; {error['msg'].removeprefix('Value error, ')}"


@cache
def environment() -> Environment:
    """Return what the environment said when it was first asked for. Raises WrongSettings."""
    return read()

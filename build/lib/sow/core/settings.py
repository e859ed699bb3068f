"""What the environment says: every variable that Sow reads, with its meaning and first value.

`./sow settings` prints them. A variable is the field's name in capitals after `SOW_`.
"""

import os
from pathlib import Path

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from .errors import SceneError

PREFIX = "SOW_"
INNER = ("database", "port_now", "host_now", "folder", "key", "password_hash")


class Settings(BaseModel):
    """Set by the person, but for the INNER ones, which `start` sets for the server."""

    model_config = ConfigDict(frozen=True)

    data: Path | None = Field(None, description="Folder of the database and all that is kept.")
    port: int = Field(0, ge=0, le=65535, description="Port of the page; 0: the one of last time.")
    password: str = Field("", description="Password for other machines, for start --host.")
    hosts: str = Field("", description="Names by which other machines may call, with commas.")
    shared: Path | None = Field(None, description="Folder of the drawer that a team shares.")
    extra: Path | None = Field(None, description="Folder of files of a studio's own.")
    cache: Path | None = Field(None, description="Folder of what recipes made.")
    cache_bytes: int = Field(1000 << 20, gt=0, description="Memory for products.")
    bytes: int = Field(500 << 20, gt=0, description="Memory for what the page was sent.")
    scheduler: str = Field("", description="Scheduler of workers, as tcp://HOST:8786.")
    workers: int = Field(1, ge=1, description="Workers on this machine where none is named.")
    grows_s: float = Field(30.0, gt=0, description="Seconds that a kind of a studio may grow.")
    fuzz_seconds: float = Field(0.0, ge=0, description="Seconds of made-up input in the tests.")
    database: str = Field("", description="Address of the database.")
    port_now: int = Field(8420, description="Port that the server listens at.")
    host_now: str = Field("127.0.0.1", description="Address that it listens at.")
    folder: Path | None = Field(None, description="The data folder that it serves.")
    key: str = Field("", description="What opens the page.")
    password_hash: str = Field("", description="Of the password for other machines.")


def settings() -> Settings:
    """As the environment has them now. Raises SceneError naming the variable that is wrong."""
    said = {name: os.environ.get(PREFIX + name.upper(), "") for name in Settings.model_fields}
    try:
        return Settings.model_validate({name: value for name, value in said.items() if value})
    except ValidationError as e:
        first = e.errors()[0]
        name = PREFIX + str(first["loc"][0]).upper()
        raise SceneError(
            f"{name} is '{first['input']}', which can't be: {first['msg']}.",
            name,
            "Set it anew, or unset it. ./sow settings tells what each is.",
        ) from None

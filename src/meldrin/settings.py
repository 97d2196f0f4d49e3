"""What can be set from outside, by environment variables that begin with MELDRIN_."""

from typing import Literal

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """What a server is told.

    database_url: another server that speaks MariaDB’s protocol, or a cluster of them; empty: the
        checkout’s own.
    demo_secret: lets its holder look as the demo’s pupil, through /enter/<secret>.
    demo_teacher: lets its holder be the demo’s teacher, in the same way.
    hosts: names and addresses, separated by commas, that pages may be asked for under; empty: any.
    keep_days: how long a guest’s work is kept after the last visit.
    log: how the log is written: as lines of JSON or plain.
    folder: where the checkout’s own database lies, so that a full disk can be told of in time.
    """

    model_config = SettingsConfigDict(env_prefix="MELDRIN_")

    database_url: str = ""
    demo_secret: str = ""
    demo_teacher: str = ""
    hosts: str = ""
    keep_days: int = 90
    log: Literal["plain", "json"] = "plain"
    folder: str = ""

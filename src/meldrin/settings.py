"""What can be set from outside, by environment variables that begin with MELDRIN_."""

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """`database_url`: another server that speaks MariaDB's protocol; empty: the checkout's own.
    `demo_secret`: lets its holder look as the demo's pupil, through /enter/<secret>.
    """

    model_config = SettingsConfigDict(env_prefix="MELDRIN_")

    database_url: str = ""
    demo_secret: str = ""

"""How the log is written: plain for a person, or a line of JSON for each entry."""

import logging.config
from typing import Any, Literal

import structlog

Form = Literal["plain", "json"]


def log_settings(form: Form) -> dict[str, Any]:
    """Return the settings of the standard library's logging. Every entry has its time, its level,
    where it comes from and, where it belongs to a request, that request's number. Requests
    themselves are entered only as JSON.
    """
    shared = [
        structlog.contextvars.merge_contextvars,
        structlog.stdlib.add_log_level,
        structlog.stdlib.add_logger_name,
        structlog.stdlib.ExtraAdder(),
        structlog.processors.TimeStamper(fmt="iso", utc=True),
    ]
    last: list[Any]
    if form == "json":
        last = [structlog.processors.format_exc_info, structlog.processors.JSONRenderer()]
    else:
        # plain: a handsome traceback takes seconds, and everybody would wait for it
        plain = structlog.dev.plain_traceback
        last = [structlog.dev.ConsoleRenderer(colors=False, exception_formatter=plain)]
    level = "INFO" if form == "json" else "WARNING"
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {
            "entry": {
                "()": structlog.stdlib.ProcessorFormatter,
                "foreign_pre_chain": shared,
                "processors": [structlog.stdlib.ProcessorFormatter.remove_processors_meta, *last],
            }
        },
        "handlers": {"out": {"class": "logging.StreamHandler", "formatter": "entry"}},
        "root": {"handlers": ["out"], "level": "WARNING"},
        "loggers": {"meldrin": {"level": level}, "uvicorn": {"level": "WARNING"}},
    }


def write_log(form: Form) -> None:
    """Write the log of this process so from now on."""
    logging.config.dictConfig(log_settings(form))

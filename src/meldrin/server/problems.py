"""Refusals as problem details (RFC 9457): one clear sentence each, and never a traceback."""

import logging
from collections.abc import Mapping
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from sqlalchemy.exc import OperationalError, SQLAlchemyError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException

from meldrin.core.errors import Code, MeldrinError
from meldrin.server.invalid import facts_of, sentence

STATUS: dict[Code, int] = {
    **{code: 404 for code in Code if code.startswith("no_such_")},
    Code.DEMO_ONLY: 404,
    Code.DEMO_PUPIL: 403,
    Code.FOREIGN_ORIGIN: 403,
    Code.ROLE: 403,
    Code.SIGN_IN: 403,
    Code.TOO_MANY: 429,
    Code.TOO_LARGE: 413,
    Code.BUSY: 503,
}
RETRY_AFTER_S = 30
STORE_AWAY = "The records cannot be reached for the moment. Nothing is lost; try again shortly."
LOG = logging.getLogger("meldrin.server")


class Problem(BaseModel):
    """A refusal: what kind it is, for programs and in words, the sentence, and facts of it."""

    type: str
    title: str
    status: int
    detail: str
    facts: dict[str, Any] = {}


_CONTENT = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}
# What any request may be answered with.
PROBLEMS: dict[int | str, dict[str, Any]] = {
    "4XX": {"description": "Refused, with a sentence", "content": _CONTENT},
    "5XX": {"description": "Not possible now, with a sentence", "content": _CONTENT},
}


def problem(
    status: int, code: Code, detail: str, facts: Mapping[str, object] | None = None
) -> JSONResponse:
    """Return a problem-details response, with the facts of the refusal where there are some."""
    body = {
        "type": f"urn:meldrin:{code.value}",
        "title": code.words,
        "status": status,
        "detail": detail,
        **({"facts": facts} if facts else {}),
    }
    return JSONResponse(body, status_code=status, media_type="application/problem+json")


def refusal(error: MeldrinError) -> JSONResponse:
    """Return the answer to what was refused, with when to try again where that helps."""
    status = STATUS.get(error.code, 422)
    answer = problem(status, error.code, error.message, error.facts)
    if status in (429, 503):
        answer.headers["Retry-After"] = str(error.facts.get("after_s", RETRY_AFTER_S))
    return answer


def too_large(detail: str) -> JSONResponse:
    """Return the answer to a body that is too large; the rest of it is not read."""
    answer = problem(413, Code.TOO_LARGE, f"{detail}.")
    answer.headers["Connection"] = "close"
    return answer


def unexpected(request: Request, error: Exception) -> JSONResponse:
    """Answer what nobody expected, with the number that the log has the error under."""
    number = request.scope.get("state", {}).get("request_id", "no number")
    LOG.error("%s: %s %s", number, request.method, request.url.path, exc_info=error)
    return problem(
        500,
        Code.UNEXPECTED,
        f"Something went wrong here. Try again; the log has it under {number}.",
        {"number": number},
    )


def add_problem_handlers(app: FastAPI) -> None:
    """Map every kind of error to problem details, in this one place."""

    @app.exception_handler(MeldrinError)
    async def refused(request: Request, error: MeldrinError) -> JSONResponse:
        return refusal(error)

    @app.exception_handler(RequestValidationError)
    async def invalid(request: Request, error: RequestValidationError) -> JSONResponse:
        return problem(422, Code.INVALID, sentence(error), facts_of(error))

    @app.exception_handler(HTTPException)
    async def plain(request: Request, error: HTTPException) -> JSONResponse:
        if error.status_code == 413:
            return too_large(error.detail)
        return problem(error.status_code, Code.HTTP, f"{error.detail}.")

    @app.exception_handler(SQLAlchemyError)
    async def away(request: Request, error: SQLAlchemyError) -> JSONResponse:
        if isinstance(error, OperationalError | PoolTimeout):
            LOG.warning("the database does not answer: %s", str(error).splitlines()[0])
        else:
            LOG.error("database error", exc_info=error)
        return problem(503, Code.STORE_AWAY, STORE_AWAY)

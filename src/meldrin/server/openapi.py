"""The OpenAPI document with the messages of the lines; the browser's types are made from it."""

from typing import Any

from fastapi import FastAPI

from meldrin.server.practices import messages
from meldrin.server.problems import Problem

REF = "#/components/schemas/{model}"


def with_socket_messages(app: FastAPI) -> None:
    """Make `app.openapi()` describe the messages of every line too, for the bench as
    BenchFromBrowser and BenchToBrowser.
    """
    plain = app.openapi

    def complete() -> dict[str, Any]:
        if app.openapi_schema is None:
            document = plain()
            schemas = document["components"]["schemas"]
            schemas["Problem"] = Problem.model_json_schema(ref_template=REF)
            for kind, (asks, answers) in messages().items():
                for name, adapter, mode in (
                    ("FromBrowser", asks, "validation"),
                    ("ToBrowser", answers, "serialization"),
                ):
                    schema = adapter.json_schema(ref_template=REF, mode=mode)  # type: ignore[arg-type]
                    schemas.update(schema.pop("$defs"))
                    schemas[f"{kind.capitalize()}{name}"] = schema
            app.openapi_schema = document
        return app.openapi_schema

    app.openapi = complete  # type: ignore[method-assign]

"""The OpenAPI document with the socket's messages in it, so that the browser's types come of it."""

from typing import Any

from fastapi import FastAPI

from meldrin.server.bench.schemas import FromBrowser, ToBrowser

REF = "#/components/schemas/{model}"


def with_socket_messages(app: FastAPI) -> None:
    """Make `app.openapi()` also describe FromBrowser and ToBrowser."""
    plain = app.openapi

    def complete() -> dict[str, Any]:
        if app.openapi_schema is None:
            document = plain()
            schemas = document["components"]["schemas"]
            for name, adapter, mode in (
                ("FromBrowser", FromBrowser, "validation"),
                ("ToBrowser", ToBrowser, "serialization"),
            ):
                schema = adapter.json_schema(ref_template=REF, mode=mode)  # type: ignore[arg-type]
                schemas.update(schema.pop("$defs"))
                schemas[name] = schema
            app.openapi_schema = document
        return app.openapi_schema

    app.openapi = complete  # type: ignore[method-assign]

"""The built web part: browsers keep the hashed files, and ask for the page itself each time."""

from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.types import Scope

from meldrin.core.errors import Code
from meldrin.server.problems import problem


class KeptFiles(StaticFiles):
    """Files whose names change with their contents."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        response = await super().get_response(path, scope)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def add_pages(app: FastAPI, folder: Path) -> None:
    """Serve the web part below `folder`; every path outside /api is a place in it."""
    app.mount("/assets", KeptFiles(directory=folder / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False, response_model=None)
    def page(path: str, request: Request) -> Response:
        nowhere = problem(404, Code.HTTP, "There is no such address.")
        if path.startswith("api/"):
            return nowhere
        try:
            wanted = (folder / path).resolve()
            if path and wanted.is_file() and wanted.is_relative_to(folder.resolve()):
                return FileResponse(wanted)
        except (ValueError, OSError):  # a NUL in it, or longer than any name can be
            return nowhere
        return FileResponse(folder / "index.html", headers={"Cache-Control": "no-cache"})

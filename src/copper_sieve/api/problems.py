"""Error responses as problem details (RFC 9457), and their part of the OpenAPI document."""

from __future__ import annotations

import http.client
from collections.abc import Mapping
from typing import Any

from fastapi import FastAPI
from fastapi.responses import JSONResponse

from copper_sieve.api.schemas.common import Problem

MEDIA_TYPE = "application/problem+json"
# Statuses that every operation can return: access control, transport, and an unavailable server.
COMMON = (400, 401, 403, 408, 413, 421, 429, 503, 507)
_NAMES = {404: "NotFound", 405: "MethodNotAllowed", 409: "Conflict", 422: "Invalid"}
_BINARY = {
    ".png": "image/png", ".zip": "application/zip", ".hdr": "image/vnd.radiance",
    ".glb": "model/gltf-binary", ".usdz": "model/vnd.usdz+zip", ".html": "text/html",
    ".json": "application/json", "/original": "application/octet-stream",
    "/change-previews": "image/png",
}  # fmt: skip


def problem(
    status: int, code: str, detail: str, headers: Mapping[str, str] | None = None
) -> JSONResponse:
    """Return an error response.

    Parameters
    ----------
    status:
        HTTP status.
    code:
        Stable snake_case identifier of the kind of error; becomes the `type`.
    detail:
        Cause and remedy, in one or two sentences.
    headers:
        Additional headers.
    """
    if status == 503:
        headers = {"Retry-After": "1", **(headers or {})}
    elif status == 408:
        headers = {"Connection": "close"}  # the rest of the body is ignored
    content = Problem(
        type=f"/problems/{code.replace('_', '-')}", title=code.replace("_", " ").capitalize(),
        status=status, detail=detail,
    )  # fmt: skip
    return JSONResponse(content.model_dump(), status, headers, MEDIA_TYPE)


def describe_problems(app: FastAPI) -> None:
    """Add error responses and binary content types to the OpenAPI document of an application."""
    plain = app.openapi

    def openapi() -> dict[str, Any]:
        document = plain()
        components = document["components"]
        if "responses" not in components:
            schemas = {
                name: schema
                for name, schema in components["schemas"].items()
                if name not in {"HTTPValidationError", "ValidationError"}
            }
            schemas["Problem"] = Problem.model_json_schema()
            components["schemas"] = dict(sorted(schemas.items()))
            components["responses"] = {
                name: _response(http.client.responses[status]) for status, name in _NAMES.items()
            } | {"Problem": _response("Any other error")}
            for path, operations in document["paths"].items():
                for method, operation in operations.items():
                    _describe(path, method, operation)
        return document

    app.openapi = openapi  # type: ignore[method-assign]


def _response(description: str) -> dict[str, Any]:
    schema = {"$ref": "#/components/schemas/Problem"}
    return {"description": description, "content": {MEDIA_TYPE: {"schema": schema}}}


def _describe(path: str, method: str, operation: dict[str, Any]) -> None:
    responses = {
        status: response
        for status, response in operation["responses"].items()
        if status.startswith("2")
    }
    for response in responses.values():
        ending = next((one for one in _BINARY if path.endswith(one)), None)
        if ending and "application/json" not in response.get("content", {}):
            response["content"] = {_BINARY[ending]: {}}
    # Beyond those that its shape implies, an operation declares its own.
    possible = {int(status) for status in operation["responses"] if status in {"404", "409"}}
    if "{" in path or "requestBody" in operation:
        possible |= {404, 409}
    if any(one["name"] == "after" for one in operation.get("parameters", ())):
        possible.add(404)  # the row of the cursor no longer exists
    if operation.get("parameters") or "requestBody" in operation:
        possible.add(422)
    for status in sorted(possible):
        responses[str(status)] = {"$ref": f"#/components/responses/{_NAMES[status]}"}
    responses["default"] = {"$ref": "#/components/responses/Problem"}
    operation["responses"] = responses

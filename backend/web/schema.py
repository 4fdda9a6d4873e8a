"""How the API describes itself: names and sentences of operations, and what all of them share."""

from __future__ import annotations

from typing import Any

from drf_spectacular.openapi import AutoSchema

from web.codes import CODES

PREFIX = "/api/v1/"
_WORDS = {
    "put": "write",
    "list": "list",
    "retrieve": "read",
    "create": "make",
    "partial_update": "change",
    "destroy": "delete",
    "get": "read",
    "post": "do",
    "patch": "change",
    "delete": "delete",
}
#: Operations whose names say what is done.
_NAMES = {
    "POST session": "session_begin",
    "DELETE session": "session_end",
    "POST session/password": "session_change_password",
    "POST calls": "calls_place",
    "POST calls/{contact}/keys": "calls_press_key",
    "POST calls/{contact}/hang-up": "calls_hang_up",
    "POST calls/{contact}/say": "calls_say",
    "POST texts": "texts_send",
    "POST speech": "speech_speak",
    "GET search": "search",
    "POST queues/clock": "queues_callers_clock",
    "POST hours/look": "hours_look",
    "POST stand-ins/reset": "stand_ins_reset",
    "POST agents/{id}/leave": "agents_leave",
    "GET hours/{id}/calendar": "hours_read_calendar",
    "POST hours/{id}/calendar": "hours_preview_calendar",
    "GET lookups/{id}/rows": "lookups_list_rows",
    "POST lookups/{id}/rows": "lookups_make_row",
    "GET numbers/read": "numbers_read_typed",
    "POST trials/{id}": "trials_replace",
    "DELETE lookup-imports/{name}": "lookup_imports_cancel",
}
_SENTENCES = {
    "list": "A page of them, ordered and searched as asked; or all of them as CSV.",
    "retrieve": "One of them.",
    "create": "Make a new one.",
    "partial_update": "Change what is named; all else stays. Say which revision was seen.",
    "destroy": "Delete one that nothing uses; the change log can bring it back.",
}
_UNSAFE = ("post", "patch", "put", "delete")


class Schema(AutoSchema):
    """One operation."""

    def get_operation_id(self) -> str:
        path = self.path.removeprefix(PREFIX)
        named = _NAMES.get(f"{self.method} {path}")
        if named:
            return named
        parts = [p.replace("-", "_") for p in path.split("/") if p and "{" not in p]
        action = getattr(self.view, "action", None)
        if action is not None and action not in _WORDS:
            return "_".join(parts)
        return "_".join([*parts, _WORDS[action or self.method.lower()]])

    def get_description(self) -> str:
        """A sentence of the view's own, or of what all kept things do; never of inner modules."""
        action = getattr(self.view, "action", "") or self.method.lower()
        done = getattr(self.view, action, None)
        own_name = type(self.view).__name__
        written_here = bool(getattr(done, "__doc__", "")) and getattr(done, "__qualname__", "").startswith(
            own_name
        )
        if written_here or action not in _SENTENCES:
            return str(super().get_description())
        own = type(self.view).__dict__.get("__doc__") or ""
        return " ".join(f"{own} {_SENTENCES[action]}".split())


def finish(result: dict[str, Any], **_: Any) -> dict[str, Any]:
    """What all operations share: errors, CSV, the token of changes, which revision was seen."""
    _one_of_several(result)
    components = result["components"]
    components["schemas"]["Problem"] = _PROBLEM
    media = {"schema": {"$ref": "#/components/schemas/Problem"}}
    components["responses"] = {
        "Problem": {"description": "A refusal in words.", "content": {"application/problem+json": media}}
    }
    components["securitySchemes"] = _SECURITY
    for path, operations in result["paths"].items():
        for method, operation in operations.items():
            _finish_operation(components["schemas"], path, method, operation)
    return result


def _one_of_several(part: Any) -> None:
    """Say "any of" where a value may fit several: a text or an empty one, anything or null."""
    for inner in part.values() if isinstance(part, dict) else part:
        if isinstance(inner, dict | list):
            _one_of_several(inner)
    if isinstance(part, dict) and "oneOf" in part and "discriminator" not in part:
        several = part.pop("oneOf")
        if {} not in several:
            part["anyOf"] = several


def _finish_operation(schemas: dict[str, Any], path: str, method: str, operation: dict[str, Any]) -> None:
    parameters = operation.setdefault("parameters", [])
    if any(p["name"] == "as" for p in parameters):
        answer = operation["responses"]["200"]["content"]
        answer["text/csv"] = {"schema": {"type": "string"}}
    for status in _statuses(path, method, operation, parameters):
        operation["responses"].setdefault(str(status), {"$ref": "#/components/responses/Problem"})
    operation["responses"]["default"] = {"$ref": "#/components/responses/Problem"}
    if method in _UNSAFE:
        parameters.append(_TOKEN)
    if method == "patch":
        for media in operation.get("requestBody", {}).get("content", {}).values():
            name = media["schema"].get("$ref", "").rpartition("/")[2]
            body = schemas.get(name, {})
            if "revision" in body.get("properties", {}):
                body["required"] = sorted({*body.get("required", ()), "revision"})


def _statuses(path: str, method: str, operation: dict[str, Any], parameters: list[Any]) -> list[int]:
    """What an operation can refuse with, by what it takes."""
    body = "requestBody" in operation
    asked = any(p["in"] == "query" for p in parameters)
    found = [400] if body or asked else []
    found += [403] if not path.endswith(("/session", "/schema")) else []
    found += [404] if "{" in path else []
    found += [409] if method in _UNSAFE else []
    found += [413, 415] if body else []
    found += [429] if "session" in path and method == "post" else []
    return [*found, 503]


_TOKEN = {
    "in": "header",
    "name": "X-CSRFToken",
    "schema": {"type": "string"},
    "description": "The cookie `hazeridge_csrf`, from whoever is signed in by a cookie.",
}
_SECURITY = {
    "session": {
        "type": "apiKey",
        "in": "cookie",
        "name": "hazeridge_session",
        "description": "Given by signing in (`session_begin`).",
    }
}
_PROBLEM: dict[str, Any] = {
    "type": "object",
    "description": "A problem (RFC 9457).\n\n" + "\n".join(f"* `{c}`: {w}" for c, w in CODES.items()),
    "required": ["status", "code", "detail", "fields"],
    "properties": {
        "status": {"type": "integer"},
        "code": {"type": "string", "enum": list(CODES)},
        "detail": {"type": "string", "description": "A sentence for the user."},
        "fields": {
            "type": "object",
            "additionalProperties": {"type": "array", "items": {"type": "string"}},
            "description": "What is wrong, by the field (or its path) that it is about.",
        },
        "reference": {"type": "string", "description": "Of an unexpected one, in the log."},
        "current": {"description": "Of a stale one: what stands now."},
        "by": {"type": "string"},
        "at": {"type": "string"},
        "uses": {"type": "array", "items": {"type": "object", "additionalProperties": True}},
    },
}

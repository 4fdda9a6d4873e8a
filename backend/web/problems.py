"""One error body for every failure: problem details (RFC 9457) with a code and fields."""

from __future__ import annotations

import logging
import uuid
from typing import Any

from django.core.exceptions import PermissionDenied, RequestDataTooBig, SuspiciousOperation
from django.db import DataError, IntegrityError, OperationalError
from django.http import Http404, HttpRequest, JsonResponse
from rest_framework import exceptions, status
from rest_framework.response import Response
from rest_framework.views import exception_handler

from callcore.errors import DefinitionError, EventRefused
from web.errors import InUse, Refused, Stale

log = logging.getLogger(__name__)


class Problem(exceptions.APIException):
    """A refusal with a stable code, a sentence for the user, and the fields it is about."""

    def __init__(self, status_code: int, code: str, detail: str, *, fields: Any = None, **more: Any) -> None:
        super().__init__(detail, code)
        self.status_code = status_code
        self.fields = fields or {}
        self.more = more


def body(status_code: int, code: str, detail: str, fields: Any = None, **more: Any) -> Response:
    """A problem as a response."""
    data = {"status": status_code, "code": code, "detail": detail, "fields": fields or {}, **more}
    return Response(data, status=status_code, content_type="application/problem+json")


def handle(error: Exception, context: dict[str, Any]) -> Response:
    """DRF's exception handler: every error becomes a problem, an unexpected one a number.

    What somebody may not do is logged with who tried it.
    """
    answer = _answer(error, context)
    if answer.status_code == status.HTTP_403_FORBIDDEN:
        request = context["request"]
        who = getattr(request.user, "username", "") or "nobody"
        log.warning("%s may not %s %s", who, request.method, request.path)
    return answer


def _answer(error: Exception, context: dict[str, Any]) -> Response:
    if isinstance(error, exceptions.ValidationError):
        fields = _flatten(error.detail)
        first = next(iter(fields.values()))[0] if fields else "This is not valid."
        return body(400, "not-valid", first, fields)
    if isinstance(error, Problem):
        return body(error.status_code, str(error.detail.code), str(error.detail), error.fields, **error.more)
    known = _known(error)
    if known is not None:
        return known
    if isinstance(error, exceptions.APIException | Http404 | PermissionDenied):
        response = exception_handler(error, context)
        assert response is not None
        detail = getattr(error, "detail", "There is nothing here.")
        code = getattr(detail, "code", "not-found")
        if isinstance(error, Http404):
            detail = "There is no such thing (any more)."
        answer = body(response.status_code, str(code).replace("_", "-"), str(detail))
        for header in ("Retry-After", "WWW-Authenticate", "Allow"):
            if header in response:
                answer[header] = response[header]
        return answer
    reference = uuid.uuid4().hex[:8]
    log.error("unexpected error %s", reference, exc_info=error)
    sentence = f"Something went wrong on our side. Reference {reference}."
    return body(500, "unexpected", sentence, reference=reference)


def _known(error: Exception) -> Response | None:
    """The errors that services and the core raise on purpose, and the database's own."""
    if isinstance(error, SuspiciousOperation):
        large = isinstance(error, RequestDataTooBig)
        words = "This is larger than can be taken." if large else "This request cannot be read."
        return body(413, "too-large", words) if large else body(400, "not-valid", words)
    if isinstance(error, DefinitionError):
        fields = {".".join(map(str, p.path)) or "flow": [p.message] for p in error.problems}
        return body(400, error.code, error.problems[0].message, fields)
    if isinstance(error, Stale):
        return body(409, "stale", str(error), current=error.current, by=error.by, at=error.at)
    if isinstance(error, InUse):
        return body(409, "in-use", str(error), uses=[use._asdict() for use in error.uses])
    if isinstance(error, EventRefused):
        return body(409, error.code, str(error))
    if isinstance(error, Refused):
        return body(error.status, error.code, str(error), error.fields)
    return _of_the_database(error)


def _of_the_database(error: Exception) -> Response | None:
    if isinstance(error, IntegrityError):
        return body(409, "clash", "This clashes with something that exists already.")
    if isinstance(error, DataError):
        return body(400, "not-valid", "A value is too long or too large to be kept.")
    if isinstance(error, OperationalError):
        log.error("database", exc_info=error)
        response = body(503, "database-away", "The database does not answer. Nothing was changed.")
        response["Retry-After"] = "2"
        return response
    return None


def _flatten(detail: Any, path: str = "") -> dict[str, list[str]]:
    if isinstance(detail, dict):
        found: dict[str, list[str]] = {}
        for key, value in detail.items():
            name = "" if key == "non_field_errors" else str(key)
            found.update(_flatten(value, ".".join(p for p in (path, name) if p)))
        return found
    if isinstance(detail, list) and any(isinstance(item, dict | list) for item in detail):
        return {k: v for i, item in enumerate(detail) for k, v in _flatten(item, f"{path}.{i}").items()}
    items = detail if isinstance(detail, list) else [detail]
    return {path: [str(item) for item in items]}


def token_missing(request: HttpRequest, reason: str = "") -> JsonResponse:
    """A change that did not come from our own page, or from one that is too old."""
    detail = "This page is too old. Load it again, then try once more."
    body = {"status": 403, "code": "token-missing", "detail": detail, "fields": {}}
    return JsonResponse(body, status=403, content_type="application/problem+json")


def bad_request(detail: str, **fields: list[str]) -> Problem:
    """A 400 about named fields."""
    return Problem(status.HTTP_400_BAD_REQUEST, "not-valid", detail, fields=fields)
